<!-- Nothing but the screen: for anyone who is not known yet. -->
<template>
  <main id="screen"><slot /></main>
</template>
