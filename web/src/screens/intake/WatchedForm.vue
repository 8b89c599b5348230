<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { ref, useId } from "vue";

import { useWatchable, type useWatchedChanges, type Watched } from "@/api/watched";
import NumberField from "@/parts/fields/NumberField.vue";
import { t } from "@/texts/intake";

/** Name a folder to watch, or change one. */
const props = defineProps<{
  slug: string;
  watched: Watched | null;
  changes: ReturnType<typeof useWatchedChanges>;
}>();
const emit = defineEmits<{ done: [] }>();
const QUIET_SECONDS = 2;
const watchable = useWatchable(() => props.slug);
const id = useId();
const name = ref(props.watched?.name ?? "");
const place = ref(props.watched?.place ?? "");
const quiet = ref(props.watched?.quiet ?? QUIET_SECONDS);
async function save(): Promise<void> {
  const given = { name: name.value, place: place.value, quiet: quiet.value };
  const made = props.watched
    ? await props.changes.edit(props.watched, { ...given, paused: props.watched.paused })
    : await props.changes.add(given);
  if (made) emit("done");
}
async function remove(): Promise<void> {
  if (props.watched && (await props.changes.remove(props.watched)) !== null) emit("done");
}
</script>

<template>
  <form class="fields form" @submit.prevent="save">
    <label :for="`${id}-name`">{{ t("name") }}</label>
    <InputText :id="`${id}-name`" v-model="name" maxlength="80" :placeholder="t('suchAsPaint')" />
    <label :for="`${id}-place`">{{ t("folder") }}</label>
    <InputText
      :id="`${id}-place`"
      v-model="place"
      class="mono"
      maxlength="1000"
      :aria-describedby="`${id}-help`"
    />
    <span />
    <span :id="`${id}-help`" class="soft">
      {{ t("belowOneOf", { folders: watchable.data.value?.folders.join(", ") ?? "" }) }}
    </span>
    <span>{{ t("secondsStill") }}</span>
    <span>
      <NumberField
        :value="quiet"
        :label="t('secondsStill')"
        :min="0.5"
        :max="600"
        @change="quiet = $event ?? QUIET_SECONDS"
      />
      <span class="soft help">{{ t("secondsStillHelp") }}</span>
    </span>
    <span />
    <span class="row">
      <Button
        type="submit"
        :label="watched ? t('save') : t('watch')"
        :disabled="!name.trim() || !place.trim() || changes.busy.value"
      />
      <Button
        v-if="watched"
        text
        severity="secondary"
        :label="t('stopWatching')"
        :title="t('whatCameStays')"
        @click="remove"
      />
    </span>
  </form>
</template>

<style scoped>
.form {
  width: 28rem;
  max-width: 90vw;
}
.help {
  display: block;
}
</style>
