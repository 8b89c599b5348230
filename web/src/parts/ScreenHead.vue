<script setup lang="ts">
/** The head of every screen: its title and state at the left, what can be done at the right, filters below. */
defineProps<{ title: string; state?: string }>();
</script>

<template>
  <header class="screen-head">
    <div class="line">
      <h1>{{ title }}</h1>
      <p class="soft state" aria-live="polite">
        <slot name="state">{{ state }}</slot>
      </p>
      <div class="row actions"><slot name="actions" /></div>
    </div>
    <div v-if="$slots.filters" class="row filters"><slot name="filters" /></div>
  </header>
</template>

<style scoped>
.screen-head {
  flex: none;
  display: grid;
  gap: var(--space-2);
  padding: var(--space-2) var(--space-4);
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-3);
  align-items: center;
  min-height: 30px;
}
.state {
  flex: 1 1 12rem;
  min-width: 0;
}
.actions {
  flex-wrap: wrap;
}
</style>
