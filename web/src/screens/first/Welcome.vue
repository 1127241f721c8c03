<script setup lang="ts">
import { session } from '../../session'
</script>

<template>
  <section class="screen narrow">
    <h1>{{ session?.organisation }} is set up.</h1>
    <p>
      The classes, soils, factors, cleaners and methods of the trade are copied, each with its evidence. What
      comes next:
    </p>
    <ol class="steps">
      <li>
        <RouterLink to="/portfolio/import">Import the units from a file</RouterLink> or
        <RouterLink to="/sites/new">add the first site</RouterLink> and its units by hand.
      </li>
      <li><RouterLink to="/people">Invite people and name the crews</RouterLink> with their hours.</li>
      <li>
        <RouterLink to="/house-rules">Look through the house rules</RouterLink> and put your own figures in.
      </li>
      <li><RouterLink to="/">See what is due next</RouterLink>.</li>
    </ol>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 720px;
}
.steps li {
  padding: 8px 0;
}
</style>
