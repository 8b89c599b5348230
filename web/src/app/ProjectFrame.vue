<script setup lang="ts">
import { ref } from "vue";

import { useEvents } from "@/api/events";
import { useProject } from "@/api/queries";
import { useChange } from "@/api/useChange";

import GonePage from "@/parts/GonePage.vue";
import { t } from "@/texts/app";

import CommandField from "./CommandField.vue";
import { useKeys } from "./keys";
import { PLACES } from "./places";
import { router } from "./router";
import TopBar from "./TopBar.vue";

const props = defineProps<{ slug: string }>();
useEvents(() => props.slug);
const project = useProject(() => props.slug);
const { undo, redo } = useChange(
  () => props.slug,
  () => [],
);
const commandOpen = ref(false);

const go = (name: string) => () => void router.push({ name, params: { slug: props.slug } });
useKeys(t("inAProject"), [
  { key: "Ctrl+K", does: t("goToAnythingRunAnyAction"), run: () => (commandOpen.value = true) },
  { key: "Z", does: t("undoYourLastChange"), run: () => void undo() },
  { key: "Shift+Z", does: t("redo"), run: () => void redo() },
  ...PLACES.map((one) => ({ key: one.key, does: t("goTo", { label: one.label }), run: go(one.name) })),
]);
</script>

<template>
  <div class="frame">
    <TopBar
      :slug="slug"
      :project="project.data.value"
      @undo="undo()"
      @redo="redo()"
      @command="commandOpen = true"
    />
    <main v-if="project.error.value">
      <GonePage :title="project.error.value.message"
        ><RouterLink to="/">{{ t("allProjects") }}</RouterLink></GonePage
      >
    </main>
    <main v-else><RouterView /></main>
    <CommandField v-if="commandOpen" v-model:open="commandOpen" :slug="slug" />
  </div>
</template>

<style scoped>
.frame {
  height: 100%;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
}
main {
  min-height: 0;
  min-width: 0;
}
/* Where text is large for the window, the page scrolls as a whole: a picture needs its room. */
@media (max-height: 34rem) {
  .frame {
    height: auto;
    overflow: visible;
  }
  main {
    height: 46rem;
  }
}
</style>
