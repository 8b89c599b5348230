<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { slotPicture, type Cast, type Sheet, type SheetSlot } from "@/api/materials";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/materials";

/** A cast's slots as cards: a picture each, from which set and map, and what is wrong with it. */
const props = defineProps<{
  slug: string;
  sheet: Sheet;
  cast: Cast;
  sets: { id: number; name: string }[];
  roles: { key: string; label: string }[];
  mayChange: boolean;
}>();
// What is corrected on the set's page, or by choosing another set.
const OF_THE_SET = ["licence_refused", "licence_unknown", "credit_missing", "green_unknown"];
const NO_MAP = 0;
const emit = defineEmits<{ fill: [slot: string, value: { set: number; role?: string } | null] }>();
const fillOf = (slot: SheetSlot) => props.cast.fills.find((one) => one.slot === slot.name);
const remarksOf = (slot: SheetSlot) =>
  props.cast.remarks.filter((one) => one.slot === slot.name && one.check !== "slot_empty");
/** The slot under which the same was said already of the same set; then it is not said at length again. */
function saidUnder(slot: SheetSlot, check: string): SheetSlot | undefined {
  if (!OF_THE_SET.includes(check)) return undefined;
  const set = fillOf(slot)?.set;
  const first = props.sheet.slots.find(
    (one) => fillOf(one)?.set === set && remarksOf(one).some((remark) => remark.check === check),
  );
  return first === slot ? undefined : first;
}
function pictureOf(slot: SheetSlot): string | null {
  const fill = fillOf(slot);
  const none = remarksOf(slot).some((one) => one.severity === "error" && one.check.endsWith("missing"));
  return fill && !none ? slotPicture(props.slug, fill.set, slot, fill.version, fill.role ?? null, 192) : null;
}
const sets = computed(() => [{ value: NO_MAP, label: t("noMap2") }, ...named(props.sets, "id", "name")]);
const rolesOf = (slot: SheetSlot) => [
  { value: "", label: t("its", { takes: slot.takes.toLowerCase() }) },
  ...props.roles.map((one) => ({ value: one.key, label: t("itsMap", { label: one.label.toLowerCase() }) })),
];
const choose = (slot: SheetSlot, id: number | null) => emit("fill", slot.name, id ? { set: id } : null);
function bind(slot: SheetSlot, role: string): void {
  const { set } = fillOf(slot)!;
  emit("fill", slot.name, role && role !== slot.role ? { set, role } : { set });
}
</script>

<template>
  <ul class="slots" :aria-label="t('slots')">
    <li v-for="slot in sheet.slots" :key="slot.name" :data-slot="slot.name">
      <div class="print">
        <img v-if="pictureOf(slot)" :src="pictureOf(slot)!" :alt="t('mapIn', { title: slot.title })" />
        <span v-else>{{ slot.default.replaceAll("_", " ") }}</span>
      </div>
      <div class="facts">
        <b>{{ slot.title }}</b>
        <span class="soft">{{ slot.takes }}, {{ slot.colour_space }}</span>
        <ChoiceField
          :model-value="fillOf(slot)?.set ?? NO_MAP"
          :options="sets"
          :disabled="!mayChange"
          :label="t('setFor', { title: slot.title })"
          @update:model-value="choose(slot, $event ?? null)"
        />
        <ChoiceField
          v-if="fillOf(slot)"
          :model-value="fillOf(slot)!.role ?? ''"
          :options="rolesOf(slot)"
          :disabled="!mayChange"
          :label="t('mapFor', { title: slot.title })"
          @update:model-value="bind(slot, $event ?? '')"
        />
      </div>
      <div v-for="remark in remarksOf(slot)" :key="remark.check" class="remark" :data-remark="remark.check">
        <Mark :severity="remark.severity" />
        {{
          saidUnder(slot, remark.check)
            ? t("asIn", { title: saidUnder(slot, remark.check)!.title })
            : remark.message
        }}
        <Button
          v-if="remark.check === 'wrong_role' && mayChange"
          text
          :label="t('useTheSetS', { takes: slot.takes.toLowerCase() })"
          @click="bind(slot, '')"
        />
        <RouterLink
          v-else-if="OF_THE_SET.includes(remark.check) && !saidUnder(slot, remark.check)"
          :to="{ name: 'set', params: { slug, id: fillOf(slot)!.set } }"
          >{{ t("open2", { set_name: fillOf(slot)!.set_name }) }}</RouterLink
        >
      </div>
    </li>
  </ul>
</template>

<style scoped>
.slots {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
  gap: var(--space-2);
}
li {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: var(--space-1) var(--space-2);
  padding: var(--space-2);
  border: 1px solid var(--line);
  background: var(--sheet);
  align-content: start;
}
.print {
  width: 96px;
  height: 96px;
  background: var(--surround);
  display: grid;
  place-items: center;
  font-size: var(--text-small);
  text-align: center;
}
.print span {
  background: var(--sheet);
  padding: 0 4px;
}
.print img {
  width: 96px;
  height: 96px;
  object-fit: cover;
}
.facts {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 2px;
  align-content: start;
  min-width: 0;
}
.remark {
  grid-column: 1 / -1;
}
</style>
