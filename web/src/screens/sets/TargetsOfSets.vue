<script setup lang="ts">
import Button from "primevue/button";
import { ref, watch } from "vue";

import { client, data } from "@/api/client";
import { keys } from "@/api/queries";
import type { Target, TextureSet } from "@/api/types";
import { useChange } from "@/api/useChange";
import CheckField from "@/parts/fields/CheckField.vue";
import { t } from "@/texts/sets";

/** Which targets the selected sets are delivered for; none for the project's own. */
const props = defineProps<{ slug: string; sets: TextureSet[]; targets: Target[] }>();
const emit = defineEmits<{ done: [] }>();
const { busy, change } = useChange(
  () => props.slug,
  () => [keys.sets(props.slug)],
);
const chosen = ref<string[]>([]);
/** Begins with what all of them have. */
watch(
  () => props.sets.map((one) => one.id).join(),
  () => {
    const [first, ...rest] = props.sets;
    chosen.value = (first?.targets ?? []).filter((name) => rest.every((one) => one.targets.includes(name)));
  },
  { immediate: true },
);
async function assign(): Promise<void> {
  const seen = Object.fromEntries(props.sets.map((one) => [one.id, one.revision]));
  const made = await change(
    () =>
      data(
        client.PUT("/api/projects/{slug}/sets/targets", {
          params: { path: { slug: props.slug } },
          body: { sets: props.sets.map((one) => one.id), targets: chosen.value, seen },
        }),
      ),
    { said: (sets) => t("targetsAssigned", { count: sets.length }), undoable: true },
  );
  if (made) emit("done");
}
</script>

<template>
  <form @submit.prevent="assign">
    <p class="soft">{{ t("withoutATargetTheyAreDelivered") }}</p>
    <div v-for="one in targets" :key="one.name">
      <CheckField v-model="chosen" :of="one.name" :label="one.title" />
    </div>
    <Button type="submit" :label="t('assign')" :disabled="busy" />
  </form>
</template>
