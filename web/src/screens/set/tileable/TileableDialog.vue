<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import { computed, ref } from "vue";

import type { StepKind } from "@/api/recipes";
import { newOrder, optionOf, type TileableOrder, untouched, useMakeTileable, WHOLE } from "@/api/tileable";
import type { RoleInfo, SetDetail } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import SliderField from "@/parts/fields/SliderField.vue";
import { t } from "@/texts/tileable";

import CornerPicture from "./CornerPicture.vue";
import { straightened } from "./corners";
import TiledPicture from "./TiledPicture.vue";
import { useTried } from "./useTried";

/** A set made to repeat: what is cut out, light, borders; before and after side by side, as tiles. */
const props = defineProps<{
  slug: string;
  set: SetDetail;
  map: number;
  roles: RoleInfo[];
  kinds: StepKind[];
}>();
const shown = defineModel<boolean>("shown", { required: true });
const maps = computed(() => props.set.maps.filter((one) => one.in_use && one.width));
const first = () => maps.value.find((one) => one.role === "base_color")?.id ?? props.map;
const order = ref<TileableOrder>(newOrder(first(), props.kinds));
const straight = ref(true);
const tiles = ref(2);
const { make, busy } = useMakeTileable(() => props.slug);
const ofSet = [() => props.slug, () => props.set.id] as const;
const before = useTried(...ofSet, () => untouched(order.value.guide, props.kinds));
const after = useTried(...ofSet, () => order.value);
const labelOf = (role: string) => props.roles.find((one) => one.key === role)?.label ?? role;
const guides = computed(() => maps.value.map((one) => ({ value: one.id, label: labelOf(one.role) })));
const BORDERS = [
  { value: "patch" as const, label: t("patch") },
  { value: "fade" as const, label: t("fade") },
  { value: "leave" as const, label: t("leave") },
];
const width = optionOf(props.kinds, "patch_borders", "width");
const reach = optionOf(props.kinds, "even_light", "reach");
const axes = Object.entries(optionOf(props.kinds, "patch_borders", "axes")?.values ?? {}).map(
  ([value, label]) => ({ value: value as TileableOrder["axes"], label }),
);
const TILES = [1, 2, 4].map((value) => ({ value, label: `${value} × ${value}` }));
const isWhole = computed(() => String(order.value.corners) === String(WHOLE));
function keepStraight(on: boolean): void {
  straight.value = on;
  if (on) order.value.corners = straightened(order.value.corners);
}
async function apply(): Promise<void> {
  if (await make(props.set, order.value)) shown.value = false;
}
</script>

<template>
  <Dialog
    v-model:visible="shown"
    modal
    :header="t('headline', { name: props.set.name })"
    :style="{ width: 'min(96vw, 1500px)' }"
  >
    <div class="all">
      <section class="left">
        <CornerPicture
          v-if="before.tried.value"
          :url="before.tried.value.url"
          :corners="order.corners"
          :straight="straight"
          :disabled="busy"
          @change="order.corners = $event"
        />
        <div class="row">
          <CheckField
            :model-value="straight"
            :label="t('keepStraight')"
            :title="t('keepStraightHelp')"
            @update:model-value="keepStraight(Boolean($event))"
          />
          <span class="grow" />
          <Button
            text
            :label="t('wholePicture')"
            :disabled="isWhole"
            @click="((order.corners = [...WHOLE]), (straight = true))"
          />
        </div>
        <div class="fields">
          <span :title="t('guideHelp')">{{ t("guide") }}</span>
          <ChoiceField v-model="order.guide" :options="guides" :label="t('guide')" />
          <span>{{ t("evenOutLight") }}</span>
          <SliderField
            :label="t('evenOutLight')"
            :value="order.light"
            :low="0"
            :high="1"
            @move="order.light = $event"
          />
          <template v-if="order.light">
            <span :title="t('reachHelp')">{{ t("reach") }}</span>
            <SliderField
              :label="t('reach')"
              :value="order.reach"
              :low="reach?.low ?? 0"
              :high="reach?.high ?? 1"
              @move="order.reach = $event"
            />
            <span />
            <CheckField v-model="order.by_channel" :label="t('colourOfLight')" />
          </template>
          <span>{{ t("borders") }}</span>
          <ChoiceField v-model="order.borders" :options="BORDERS" :label="t('borders')" />
          <template v-if="order.borders !== 'leave'">
            <span :title="t('stripHelp')">{{ t("strip") }}</span>
            <SliderField
              :label="t('strip')"
              :value="order.width"
              :low="width?.low ?? 0"
              :high="width?.high ?? 1"
              @move="order.width = $event"
            />
            <span>{{ t("which") }}</span>
            <ChoiceField v-model="order.axes" :options="axes" :label="t('which')" />
          </template>
          <span>{{ t("tiles") }}</span>
          <ChoiceField v-model="tiles" :options="TILES" :label="t('tiles')" />
        </div>
      </section>
      <TiledPicture
        :title="t('before')"
        :tried="before.tried.value"
        :tiles="tiles"
        :waiting="before.waiting.value"
        :problem="before.problem.value"
      />
      <TiledPicture
        :title="t('after')"
        :tried="after.tried.value"
        :tiles="tiles"
        :waiting="after.waiting.value"
        :problem="after.problem.value"
      />
    </div>
    <template #footer>
      <Button text severity="secondary" :label="t('cancel')" @click="shown = false" />
      <Button
        :label="t('apply')"
        :loading="busy"
        :disabled="!!after.problem.value || !after.tried.value"
        @click="apply"
      />
    </template>
  </Dialog>
</template>

<style scoped>
.all {
  display: grid;
  grid-template-columns: minmax(240px, 3fr) 4fr 4fr;
  gap: var(--space-4);
  align-items: start;
}
.left {
  display: grid;
  gap: var(--space-2);
}
@media (max-width: 900px) {
  .all {
    grid-template-columns: 1fr;
  }
}
</style>
