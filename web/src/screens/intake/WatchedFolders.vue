<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import { ref } from "vue";

import { useWatched, useWatchedChanges, type Watched } from "@/api/watched";
import StateView from "@/parts/StateView.vue";
import OldDeliveries from "@/screens/versions/OldDeliveries.vue";
import VersionList from "@/screens/versions/VersionList.vue";
import { t } from "@/texts/intake";

import WatchedForm from "./WatchedForm.vue";

/** Folders that are watched: how each stands, what cannot be read, what came again. */
const props = defineProps<{ slug: string; mayPrepare: boolean; mayRule: boolean }>();
const watched = useWatched(() => props.slug);
const changes = useWatchedChanges(() => props.slug);
const form = ref<InstanceType<typeof Popover>>();
const edited = ref<Watched | null>(null);
const opened = ref<number | null>(null);
function open(event: Event, one: Watched | null): void {
  edited.value = one;
  form.value?.toggle(event);
}
function standing(one: Watched): string {
  if (one.paused) return t("paused");
  const count = (...states: string[]) => one.files.filter((file) => states.includes(file.state)).length;
  const words = [
    [one.taken, t("filesTakenIn", { count: one.taken })],
    [count("changing", "arriving"), t("filesChanging", { count: count("changing", "arriving") })],
    [count("refused"), t("filesRefused", { count: count("refused") })],
    [count("missing"), t("filesMissing", { count: count("missing") })],
  ] as const;
  return (
    words
      .filter(([some]) => some)
      .map(([, said]) => said)
      .join(", ") || t("nothingTakenInYet")
  );
}
const pause = (one: Watched) =>
  changes.edit(one, { name: one.name, place: one.place, quiet: one.quiet, paused: !one.paused });
</script>

<template>
  <section :aria-label="t('watchedFolders')">
    <div class="row">
      <h2>{{ t("watchedFolders") }}</h2>
      <span class="grow" />
      <Button
        v-if="mayRule"
        text
        icon="pi pi-plus"
        :label="t('watchAFolder')"
        :title="t('whatWatchingDoes')"
        @click="open($event, null)"
      />
    </div>
    <StateView :query="watched" :rows="1" height="2.4rem" :empty="!watched.data.value?.length">
      <template #empty>
        <p class="soft">{{ t("noFolderWatched") }} {{ t("whatWatchingDoes") }}</p>
      </template>
      <article v-for="one in watched.data.value ?? []" :key="one.id" :data-watched="one.name">
        <div class="row">
          <strong>{{ one.name }}</strong>
          <span class="mono soft path" :title="one.path">{{ one.place }}</span>
          <span class="grow" />
          <Button
            v-if="one.intake"
            text
            :label="opened === one.id ? t('hide') : t('exportedAgain')"
            :aria-expanded="opened === one.id"
            @click="opened = opened === one.id ? null : one.id"
          />
          <Button
            v-if="mayRule"
            text
            severity="secondary"
            :label="one.paused ? t('goOn') : t('pause')"
            :disabled="changes.busy.value"
            @click="pause(one)"
          />
          <Button
            v-if="mayRule"
            text
            severity="secondary"
            icon="pi pi-pencil"
            :aria-label="t('edit', { name: one.name })"
            @click="open($event, one)"
          />
        </div>
        <div :class="one.problem ? 'error' : 'soft'" data-test="watched-standing" role="status">
          {{ one.problem || standing(one) }}
        </div>
        <ul v-if="one.files.some((file) => file.problem)">
          <li v-for="file in one.files.filter((each) => each.problem)" :key="file.path">
            <span class="mono">{{ file.path }}</span> {{ file.problem }}
          </li>
        </ul>
        <Button
          v-if="mayPrepare && one.files.some((file) => file.state === 'refused')"
          text
          :label="t('tryAgain')"
          @click="changes.again(one)"
        />
        <div v-if="opened === one.id && one.intake" class="again">
          <OldDeliveries :slug="slug" :set="null" />
          <VersionList :slug="slug" :of="{ intake: one.intake }" :may-change="mayPrepare" />
        </div>
      </article>
    </StateView>
    <Popover ref="form" :aria-label="t('watchAFolder')">
      <WatchedForm
        :key="edited?.id ?? 0"
        :slug="slug"
        :watched="edited"
        :changes="changes"
        @done="form?.hide()"
      />
    </Popover>
  </section>
</template>

<style scoped>
article {
  padding: var(--space-2) 0;
  border-top: 1px solid var(--line);
}
.path {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.again {
  display: grid;
  gap: var(--space-2);
  padding-top: var(--space-2);
}
ul {
  margin: 0;
  padding-left: 18px;
}
</style>
