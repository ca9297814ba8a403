<!-- Nothing but the screen: for who is not known yet. -->
<template>
  <main id="screen"><slot /></main>
</template>
