<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";

import type { ImportedMaster, TakenIn } from "@/api/exchange";
import { t } from "@/texts/materials";

/** One master of a file: what was read of it, what was not, its casts, and adding it. */
defineProps<{ slug: string; master: ImportedMaster; taken: TakenIn | null; busy: boolean }>();
const emit = defineEmits<{ add: []; takeIn: [] }>();
const changesOf = (cast: ImportedMaster["casts"][number]) =>
  Object.entries(cast.changes ?? {})
    .map(([name, value]) => `${name} ${Array.isArray(value) ? value.join(" ") : String(value)}`)
    .join(", ");
</script>

<template>
  <article :data-import="master.document.name">
    <header class="row">
      <h3>{{ master.document.title }}</h3>
      <span class="soft mono">{{ master.document.name }}</span>
      <template v-if="!taken">
        <Button
          v-if="master.casts.length"
          :label="t('addWithItsCast', { count: master.casts.length })"
          :disabled="busy"
          @click="emit('takeIn')"
        />
        <Button
          :outlined="master.casts.length > 0"
          :label="t('addToTheLibrary')"
          :disabled="busy"
          @click="emit('add')"
        />
      </template>
    </header>
    <p v-if="!master.lost.length" class="soft">{{ t("everythingInItWasRead") }}</p>
    <Message v-else severity="warn" :closable="false">
      <ul :aria-label="t('notRead')">
        <li v-for="line in master.lost" :key="line">{{ line }}</li>
      </ul>
    </Message>
    <table class="table">
      <thead>
        <tr>
          <th scope="col">{{ t("input") }}</th>
          <th scope="col">{{ t("expression") }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(text, name) in master.document.inputs ?? {}" :key="name">
          <th scope="row">{{ String(name).replaceAll("_", " ") }}</th>
          <td class="mono">{{ text }}</td>
        </tr>
      </tbody>
    </table>
    <table v-if="master.casts.length" class="table" :aria-label="t('casts')">
      <thead>
        <tr>
          <th scope="col">{{ t("cast") }}</th>
          <th scope="col">{{ t("changes") }}</th>
          <th scope="col">{{ t("maps") }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(cast, at) in master.casts" :key="at">
          <th scope="row">{{ cast.name }}</th>
          <td class="mono">{{ changesOf(cast) || t("nothing") }}</td>
          <td class="mono">
            <div v-for="(path, slot) in cast.files" :key="slot">{{ slot }} = {{ path }}</div>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="taken" class="row" role="status">
      {{ t("addedWithTheseCasts") }}
      <RouterLink
        v-for="cast in taken.casts"
        :key="cast.id"
        :to="{ name: 'materials', params: { slug, kind: 'cast', key: cast.id } }"
        >{{ cast.name }}</RouterLink
      >
      <ul v-if="taken.unfilled.length" :aria-label="t('slotsLeftEmpty')">
        <li v-for="left in taken.unfilled" :key="`${left.cast} ${left.slot}`">
          {{ t("noSetHereHoldsSoIts", { cast: left.cast, file: left.file, slot: left.slot }) }}
        </li>
      </ul>
    </div>
  </article>
</template>

<style scoped>
article {
  border-top: 1px solid var(--line);
  padding-top: var(--space-2);
  display: grid;
  gap: var(--space-2);
}
ul {
  margin: 0;
  padding-left: 16px;
}
td,
th {
  overflow-wrap: anywhere;
}
</style>
