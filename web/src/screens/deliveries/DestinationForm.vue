<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import SelectButton from "primevue/selectbutton";
import { computed, ref, useId } from "vue";

import {
  type Destination,
  type NewDestination,
  useAllowedPlaces,
  type useDestinationChanges,
} from "@/api/destinations";
import { t } from "@/texts/deliveries";

/** Name a place, or change one. */
const props = defineProps<{
  slug: string;
  target: string;
  destination: Destination | null;
  changes: ReturnType<typeof useDestinationChanges>;
}>();
const emit = defineEmits<{ done: [] }>();
const allowed = useAllowedPlaces(() => props.slug);
const id = useId();
const name = ref(props.destination?.name ?? "");
const kind = ref<NewDestination["kind"]>((props.destination?.kind as NewDestination["kind"]) ?? "folder");
const place = ref(props.destination?.place ?? "");
const KINDS = computed(() => [
  { value: "folder", label: t("folder") },
  { value: "zip", label: t("zip") },
  ...(allowed.data.value?.buckets.length ? [{ value: "bucket", label: t("bucket") }] : []),
]);
const help = computed(() =>
  kind.value === "bucket"
    ? t("aBucketAndAPrefix", { buckets: allowed.data.value?.buckets.join(", ") ?? "" })
    : t("belowOneOf", { folders: allowed.data.value?.folders.join(", ") ?? "" }),
);
async function save(): Promise<void> {
  const given = { name: name.value, place: place.value, target: props.destination?.target ?? props.target };
  const made = props.destination
    ? await props.changes.edit(props.destination, given)
    : await props.changes.add({ ...given, kind: kind.value });
  if (made) emit("done");
}
async function remove(): Promise<void> {
  if (props.destination && (await props.changes.remove(props.destination)) !== null) emit("done");
}
</script>

<template>
  <form class="fields form" @submit.prevent="save">
    <label :for="`${id}-name`">{{ t("name") }}</label>
    <InputText :id="`${id}-name`" v-model="name" maxlength="80" :placeholder="t('suchAsArtFolder')" />
    <template v-if="!destination">
      <span>{{ t("kind") }}</span>
      <SelectButton
        v-model="kind"
        :options="KINDS"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        :aria-label="t('kind')"
      />
    </template>
    <label :for="`${id}-place`">{{ t("place") }}</label>
    <InputText
      :id="`${id}-place`"
      v-model="place"
      class="mono"
      maxlength="1000"
      :aria-describedby="`${id}-help`"
    />
    <span />
    <span :id="`${id}-help`" class="soft">{{ help }}</span>
    <span />
    <span class="row">
      <Button
        type="submit"
        :label="destination ? t('save') : t('add')"
        :disabled="!name.trim() || !place.trim() || changes.busy.value"
      />
      <Button
        v-if="destination"
        text
        severity="secondary"
        :label="t('remove')"
        :title="t('itsFilesStayWhereTheyLie')"
        @click="remove"
      />
    </span>
  </form>
</template>

<style scoped>
.form {
  width: 26rem;
  max-width: 90vw;
}
</style>
