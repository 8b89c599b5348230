<script setup lang="ts">
import type { MasterDocument, SheetDocument } from "@/api/materials";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/materials";

import MasterParts from "./MasterParts.vue";

/** The slots and parameters of a sheet; of a layered master layer by layer, with where each lies. */
defineProps<{ document: MasterDocument; mayWrite: boolean }>();
const emit = defineEmits<{ change: [edit: (document: MasterDocument) => void] }>();
type Source = NonNullable<NonNullable<NonNullable<MasterDocument["layers"]>[number]["mask"]>["source"]>;
const SOURCES: { value: Source; label: string }[] = [
  ...(["red", "green", "blue", "alpha"] as const).map((value) => ({
    value,
    label: t("whereTheVertexColourHas", { channel: value }),
  })),
  { value: "map", label: t("whereAMapIsWhite") },
  { value: "none", label: t("everywhereOneAmount") },
];
const setSource = (at: number, source: Source) =>
  emit("change", (edited) => {
    const layer = edited.layers![at]!;
    layer.mask = { ...layer.mask, source };
  });
</script>

<template>
  <template v-if="document.layers">
    <div v-for="(one, at) in document.layers" :key="one.name" class="layer">
      <div class="row">
        <b>{{ one.title || one.name }}</b>
        <template v-if="at">
          <span class="soft">{{ t("lies") }}</span>
          <ChoiceField
            :model-value="(one.mask?.source ?? 'red') as Source"
            :options="SOURCES"
            :disabled="!mayWrite"
            :label="t('whereLies', { name: one.title || one.name })"
            @update:model-value="$event && setSource(at, $event)"
          />
        </template>
        <span v-else class="soft">{{ t("liesBelowAllOthers") }}</span>
      </div>
      <MasterParts
        :part="one.sheet"
        :may-write="mayWrite"
        @change="(edit) => emit('change', (edited) => edit(edited.layers![at]!.sheet))"
      />
    </div>
  </template>
  <MasterParts
    v-else
    :part="document as SheetDocument"
    :may-write="mayWrite"
    @change="(edit) => emit('change', (edited) => edit(edited as SheetDocument))"
  />
</template>

<style scoped>
.layer {
  border-top: 1px solid var(--line);
  padding-top: var(--space-1);
}
</style>
