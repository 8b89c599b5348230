<script setup lang="ts">
import { useEvents } from "@/api/events";
import { useProject } from "@/api/queries";
import { useSetChanges } from "@/api/setChanges";

import { useKeys } from "./keys";
import TopBar from "./TopBar.vue";
import { router } from "./router";

const props = defineProps<{ slug: string }>();
useEvents(() => props.slug);
const project = useProject(() => props.slug);
const changes = useSetChanges(() => props.slug);

const go = (name: string) => () => void router.push({ name, params: { slug: props.slug } });
useKeys("In a project", [
  { key: "Z", does: "Undo the last change", run: () => changes.undo.mutate() },
  { key: "Shift+Z", does: "Redo", run: () => changes.redo.mutate() },
  { key: "I", does: "Go to the intake", run: go("intake") },
  { key: "O", does: "Go to the roll", run: go("roll") },
  { key: "Q", does: "Go to the masters", run: go("masters") },
  { key: "D", does: "Go to the deliveries", run: go("deliveries") },
]);
</script>

<template>
  <div class="frame">
    <TopBar
      :slug="slug"
      :project="project.data.value"
      @undo="changes.undo.mutate()"
      @redo="changes.redo.mutate()"
    />
    <main v-if="project.error.value" class="gone">
      <h1>{{ project.error.value.message }}</h1>
      <RouterLink to="/">All projects</RouterLink>
    </main>
    <main v-else><RouterView /></main>
  </div>
</template>

<style scoped>
.frame {
  height: 100%;
  display: grid;
  grid-template-rows: 40px minmax(0, 1fr);
}
main {
  min-height: 0;
  min-width: 0;
}
.gone {
  padding: 48px;
}
</style>
