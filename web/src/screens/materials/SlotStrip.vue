<script setup lang="ts">
import { slotPicture, type Cast, type Sheet, type SheetSlot } from "@/api/materials";
import Mark from "@/parts/Mark.vue";

/** What fills a cast's slots: a picture each, from which set, and what is fed wrongly. */
const props = defineProps<{
  slug: string;
  sheet: Sheet;
  cast: Cast;
  sets: { id: number; name: string }[];
  roles: { key: string; label: string }[];
  mayChange: boolean;
}>();
// What is put right on the bench, or by taking another set.
const OF_THE_SET = ["licence_refused", "licence_unknown", "credit_missing", "green_unknown"];
const emit = defineEmits<{ fill: [slot: string, value: { set: number; role?: string } | null] }>();
const fillOf = (slot: SheetSlot) => props.cast.fills.find((one) => one.slot === slot.name);
const remarksOf = (slot: SheetSlot) => props.cast.remarks.filter((one) => one.slot === slot.name);
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
  return fill && !none ? slotPicture(props.slug, fill.set, slot, fill.version, fill.role ?? null, 128) : null;
}
function choose(slot: SheetSlot, id: string): void {
  emit("fill", slot.name, id ? { set: Number(id) } : null);
}
function feed(slot: SheetSlot, role: string): void {
  const fill = fillOf(slot)!;
  emit("fill", slot.name, role && role !== slot.role ? { set: fill.set, role } : { set: fill.set });
}
</script>

<template>
  <ul class="slots" aria-label="Slots">
    <li v-for="slot in sheet.slots" :key="slot.name" :data-slot="slot.name">
      <div class="print">
        <img v-if="pictureOf(slot)" :src="pictureOf(slot)!" :alt="`What fills ${slot.title}`" />
        <span v-else>{{ slot.default.replaceAll("_", " ") }}</span>
      </div>
      <div class="facts">
        <b>{{ slot.title }}</b>
        <span class="soft">{{ slot.takes }}, {{ slot.colour_space }}</span>
        <select
          :value="fillOf(slot)?.set ?? ''"
          :disabled="!mayChange"
          :aria-label="`Set for ${slot.title}`"
          @change="choose(slot, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">no map</option>
          <option v-for="one in sets" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select>
        <select
          v-if="fillOf(slot)"
          :value="fillOf(slot)!.role ?? ''"
          :disabled="!mayChange"
          :aria-label="`Map for ${slot.title}`"
          @change="feed(slot, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">as the slot takes it</option>
          <option v-for="one in roles" :key="one.key" :value="one.key">
            its {{ one.label.toLowerCase() }} map
          </option>
        </select>
        <p
          v-for="remark in remarksOf(slot).filter((one) => one.check !== 'slot_empty')"
          :key="remark.check"
          class="remark"
          :data-remark="remark.check"
        >
          <Mark :severity="remark.severity" />
          {{
            saidUnder(slot, remark.check)
              ? `As said under ${saidUnder(slot, remark.check)!.title}.`
              : remark.message
          }}
          <button
            v-if="remark.check === 'wrong_role' && mayChange"
            class="plain cure"
            @click="feed(slot, '')"
          >
            Take the set's {{ slot.takes.toLowerCase() }}
          </button>
          <RouterLink
            v-else-if="OF_THE_SET.includes(remark.check) && !saidUnder(slot, remark.check)"
            class="cure"
            :to="{ name: 'set', params: { slug, id: fillOf(slot)!.set } }"
            >Open {{ fillOf(slot)!.set_name }}</RouterLink
          >
        </p>
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
  grid-template-columns: repeat(auto-fill, minmax(210px, 1fr));
  gap: 10px;
}
li {
  display: grid;
  grid-template-columns: 72px minmax(0, 1fr);
  gap: 8px;
  font-size: 12px;
}
.print {
  width: 72px;
  height: 72px;
  background: var(--surround);
  display: grid;
  place-items: center;
  color: var(--on-surround);
  font-size: 11px;
  text-align: center;
}
.print span {
  background: var(--sheet);
  color: var(--ink);
  padding: 0 4px;
}
.print img {
  width: 72px;
  height: 72px;
  object-fit: cover;
}
.facts {
  display: grid;
  gap: 2px;
  align-content: start;
  min-width: 0;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  max-width: 100%;
}
.remark {
  margin: 0;
}
.cure {
  color: var(--accent);
}
</style>
