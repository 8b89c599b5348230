<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import Message from "primevue/message";
import MultiSelect from "primevue/multiselect";
import { computed, ref } from "vue";

import { type AtlasOrder, useAtlasChanges, useAtlasPlan } from "@/api/atlases";
import { useCatalogue } from "@/api/queries";
import { useModels } from "@/api/models";
import type { RoleInfo, TextureSet } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/atlas";

import AtlasPicture from "./AtlasPicture.vue";

/** Smaller atlases are not worth one. */
const SMALLEST = 256;
/** Several sets put onto one: how large, with how much room, and which models come to wear it. */
const props = defineProps<{ slug: string; sets: TextureSet[]; roles: RoleInfo[] }>();
const shown = defineModel<boolean>("shown", { required: true });
const { make, busy } = useAtlasChanges(() => props.slug);
const models = useModels(() => props.slug);
const name = ref("atlas");
const padding = ref(8);
const size = ref("");
const worn = ref<number[]>([]);
const byDensity = ref(false);
const density = ref<number | null>(null);
const order = computed<AtlasOrder>(() => ({
  name: name.value,
  sets: props.sets.map((one) => one.id),
  models: worn.value,
  padding: padding.value,
  side: size.value ? size.value.split(" ").map(Number) : null,
  by_density: byDensity.value,
  density: byDensity.value ? density.value : null,
}));
const plan = useAtlasPlan(
  () => props.slug,
  // The name changes nothing of where they lie.
  () => ({ ...order.value, name: "atlas" }),
);
const problem = computed(() => plan.error.value?.message ?? null);
const catalogue = useCatalogue();
const rooms = computed(() =>
  (catalogue.data.value?.atlas.paddings ?? [padding.value]).map((value) => ({
    value,
    label: t("texels", { count: value }),
  })),
);
/** Powers of two up to the largest, square or twice as wide as high. */
const sizes = computed(() => {
  const made = [{ value: "", label: t("smallest") }];
  const largest = catalogue.data.value?.atlas.largest ?? 0;
  for (let side = SMALLEST; side <= largest; side *= 2)
    for (const width of [side, 2 * side])
      if (width <= largest) made.push({ value: `${width} ${side}`, label: `${width} × ${side}` });
  return made;
});
const labelOf = (role: string) => props.roles.find((one) => one.key === role)?.label.toLowerCase() ?? role;
const missing = computed(() =>
  Object.entries(plan.data.value?.missing ?? {}).map(([role, names]) =>
    t("missing", { role: labelOf(role), names: names.join(", ") }),
  ),
);
const summary = computed(() => {
  const { width, height, used, clean } = plan.data.value!;
  const values = { width, height, used: Math.round(used * 100), count: clean };
  return clean ? t("used", values) : t("noMipClean", values);
});
async function start(): Promise<void> {
  if (await make(order.value)) shown.value = false;
}
</script>

<template>
  <Dialog
    v-model:visible="shown"
    modal
    :header="t('headline', { count: sets.length })"
    :style="{ width: 'min(96vw, 1180px)' }"
  >
    <div class="both">
      <section>
        <AtlasPicture v-if="plan.data.value" :slug="slug" :plan="plan.data.value" :sets="sets" />
        <p v-if="plan.data.value" class="small" role="status">{{ summary }}</p>
        <Message v-if="problem" severity="error" :closable="false">{{ problem }}</Message>
      </section>
      <section class="side">
        <div class="fields">
          <span>{{ t("name") }}</span>
          <TextField :value="name" :label="t('name')" :maxlength="100" @change="name = $event" />
          <span>{{ t("size") }}</span>
          <ChoiceField v-model="size" :options="sizes" :label="t('size')" />
          <span :title="t('roomHelp')">{{ t("room") }}</span>
          <ChoiceField v-model="padding" :options="rooms" :label="t('room')" />
          <span :title="t('modelsHelp')">{{ t("models") }}</span>
          <MultiSelect
            v-model="worn"
            :options="models.data.value ?? []"
            option-value="id"
            option-label="name"
            :placeholder="t('noModels')"
            :aria-label="t('models')"
            data-test="atlas-models"
          />
          <template v-if="worn.length">
            <span />
            <CheckField v-model="byDensity" :label="t('byDensity')" :help="t('byDensityHelp')" />
            <template v-if="byDensity">
              <span>{{ t("density") }}</span>
              <NumberField
                :value="density"
                :label="t('density')"
                :min="1"
                :digits="1"
                optional
                :placeholder="t('asMuchAsThereIs')"
                @change="density = $event"
              />
            </template>
          </template>
        </div>
        <template v-if="plan.data.value">
          <table class="small cells">
            <thead>
              <tr>
                <th scope="col">{{ t("cell") }}</th>
                <th scope="col">{{ t("size") }}</th>
                <th scope="col">{{ t("own") }}</th>
                <th scope="col">{{ t("where") }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="cell in plan.data.value.cells" :key="cell.set">
                <th scope="row">{{ cell.name }}</th>
                <td>{{ cell.width }} × {{ cell.height }}</td>
                <td>{{ cell.own[0] }} × {{ cell.own[1] }}</td>
                <td>{{ cell.x }}, {{ cell.y }}</td>
              </tr>
            </tbody>
          </table>
          <p v-for="one in missing" :key="one" class="small soft">{{ one }}</p>
          <template v-if="plan.data.value.moves.length">
            <h3>{{ t("slotsThatMove") }}</h3>
            <ul class="small">
              <li v-for="move in plan.data.value.moves" :key="`${move.model} ${move.slot}`">
                {{ move.model }}, {{ move.slot }}:
                <span v-if="move.problem" class="error">{{
                  t("staysAsItIs", { problem: move.problem })
                }}</span>
                <span v-else-if="move.density">{{
                  t("densityOf", { density: Math.round(move.density) })
                }}</span>
              </li>
            </ul>
          </template>
        </template>
      </section>
    </div>
    <template #footer>
      <Button text severity="secondary" :label="t('cancel')" @click="shown = false" />
      <Button
        :label="t('make')"
        :loading="busy"
        :disabled="!!problem || !plan.data.value || !name.trim()"
        @click="start"
      />
    </template>
  </Dialog>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: var(--space-4);
  align-items: start;
}
.side {
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
.cells {
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}
.cells :is(th, td) {
  text-align: left;
  font-weight: normal;
  padding: 2px var(--space-2) 2px 0;
}
ul {
  margin: 0;
  padding-left: var(--space-4);
}
@media (max-width: 900px) {
  .both {
    grid-template-columns: 1fr;
  }
}
</style>
