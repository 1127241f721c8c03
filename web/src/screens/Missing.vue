<template>
  <section class="screen">
    <h1>There is nothing at this address.</h1>
    <p><RouterLink to="/">Go to the next round</RouterLink></p>
  </section>
</template>
