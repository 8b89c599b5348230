<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import type { FileVerdict } from "@/api/rules";
import CheckField from "@/parts/fields/CheckField.vue";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/rules";

/** Every file whose name breaks the rules: now, what it will be, why. Those ticked are renamed as one change. */
const props = defineProps<{
  files: FileVerdict[];
  mayChange: boolean;
  unsaved: boolean;
  busy: boolean;
}>();
const emit = defineEmits<{ rename: [changes: { file: number; path: string; seen: string }[]] }>();

const left = ref(new Set<number>());
const wrong = computed(() => props.files.filter((one) => !one.fine));
const fixable = (one: FileVerdict) => Boolean(one.right) && one.right !== one.path;
const going = computed(() => wrong.value.filter((one) => fixable(one) && !left.value.has(one.file)));
const why = (one: FileVerdict) =>
  one.came_as === one.path ? one.problems : [...one.problems, t("arrivedAs", { came_as: one.came_as })];

function toggle(file: number): void {
  const next = new Set(left.value);
  if (!next.delete(file)) next.add(file);
  left.value = next;
}
function rename(): void {
  emit(
    "rename",
    going.value.map((one) => ({ file: one.file, path: one.right!, seen: one.path })),
  );
}
</script>

<template>
  <section class="list" :aria-label="t('filesOfTheProject')">
    <header class="row">
      <h2>
        {{ t("ofFileNamesFollowTheRules", { count: files.length - wrong.length, count2: files.length }) }}
      </h2>
      <span class="grow" />
      <Button
        v-if="mayChange && wrong.some(fixable)"
        :label="t('rename1File', { count: going.length })"
        :disabled="!going.length || busy || unsaved"
        :title="unsaved ? t('saveTheRulesFirst') : ''"
        @click="rename"
      />
    </header>
    <p v-if="unsaved" class="soft">{{ t("judgedByTheSavedRulesSave") }}</p>
    <p v-if="files.length && !wrong.length" class="row">
      <Mark severity="fine" />
      {{ t("everyFileNameFollowsTheRules") }}
    </p>
    <table v-if="wrong.length" class="table">
      <thead>
        <tr>
          <th scope="col">
            <span class="visually-hidden">{{ t("rename") }}</span>
          </th>
          <th scope="col">{{ t("now") }}</th>
          <th scope="col">{{ t("willBe") }}</th>
          <th scope="col">{{ t("why") }}</th>
          <th scope="col">{{ t("set") }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in wrong" :key="one.file" :data-file="one.path">
          <td>
            <CheckField
              v-if="fixable(one)"
              hidden
              :label="t('rename2', { path: one.path })"
              :model-value="!left.has(one.file)"
              :disabled="!mayChange"
              @update:model-value="toggle(one.file)"
            />
            <Mark v-else severity="warning" />
          </td>
          <td class="mono">{{ one.path }}</td>
          <td class="mono new">{{ fixable(one) ? one.right : "" }}</td>
          <td>
            <div v-for="reason in why(one)" :key="reason">{{ reason }}</div>
          </td>
          <td class="soft">{{ one.sets.join(", ") }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.list {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-2);
  align-content: start;
}
.table {
  table-layout: fixed;
  width: 100%;
}
.table th:first-child {
  width: 2.5rem;
}
.table th:nth-child(4) {
  width: 26%;
}
.table th:nth-child(5) {
  width: 14%;
}
.table td {
  overflow-wrap: anywhere;
}
.table .mono {
  overflow-wrap: anywhere;
}
.new {
  color: var(--accent);
}
</style>
