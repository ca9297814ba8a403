<template>
  <p>Vornak</p>
</template>
