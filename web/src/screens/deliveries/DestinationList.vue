<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import { computed, ref, watch } from "vue";

import { type Destination, useDestinationChanges, useDestinations } from "@/api/destinations";
import CheckField from "@/parts/fields/CheckField.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/deliveries";

import DestinationForm from "./DestinationForm.vue";
import { standing } from "./standing";

/** The places of a target: which of them the delivery is brought to, and how each stands. */
const props = defineProps<{ slug: string; target: string; mayRule: boolean }>();
const going = defineModel<number[]>({ required: true });
const emit = defineEmits<{ drift: [destination: Destination]; mirror: [destination: Destination] }>();
const destinations = useDestinations(() => props.slug);
const changes = useDestinationChanges(() => props.slug);
const shown = computed(() => (destinations.data.value ?? []).filter((one) => one.target === props.target));
const form = ref<InstanceType<typeof Popover>>();
const edited = ref<Destination | null>(null);
// What was delivered to before goes there again, unless somebody says otherwise.
watch(
  [() => props.target, () => shown.value.length],
  () => (going.value = shown.value.filter((one) => one.holds !== null && !one.problem).map((one) => one.id)),
  { immediate: true },
);
function open(event: Event, one: Destination | null): void {
  edited.value = one;
  form.value?.toggle(event);
}
</script>

<template>
  <section :aria-label="t('destinations')">
    <div class="row">
      <h2>{{ t("destinations") }}</h2>
      <span class="grow" />
      <Button
        v-if="mayRule"
        text
        icon="pi pi-plus"
        :label="t('add')"
        :title="t('nameAPlaceThatDeliveriesGo')"
        @click="open($event, null)"
      />
    </div>
    <StateView :query="destinations" :rows="2" height="2.4rem" :empty="!shown.length">
      <template #empty>
        <p class="soft">{{ t("noDestinationYet") }}</p>
      </template>
      <article v-for="one in shown" :key="one.id" :data-destination="one.name" :data-holds="one.holds">
        <div class="row">
          <CheckField
            v-model="going"
            :of="one.id"
            :label="one.name"
            :help="t('bringTheDeliveryThere', { place: one.path })"
            :disabled="Boolean(one.problem)"
          />
          <span class="grow" />
          <Button
            text
            size="small"
            :label="t('drift')"
            :title="t('seeWhatOthersChanged', { name: one.name })"
            :disabled="one.holds === null && !one.last?.drift"
            @click="emit('drift', one)"
          />
          <Button
            v-if="one.kind === 'folder'"
            text
            size="small"
            :label="t('mirror')"
            :title="t('seeWhatTheEngineMakes', { name: one.name })"
            @click="emit('mirror', one)"
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
        <div class="mono soft path" :title="one.path">{{ one.path }}</div>
        <div :class="standing(one).bad ? 'error' : 'soft'" data-test="standing">
          {{ standing(one).words }}
        </div>
      </article>
    </StateView>
    <Popover ref="form" :aria-label="t('destination')">
      <DestinationForm
        :key="edited?.id ?? 0"
        :slug="slug"
        :target="target"
        :destination="edited"
        :changes="changes"
        @done="form?.hide()"
      />
    </Popover>
  </section>
</template>

<style scoped>
article {
  padding: var(--space-1) 0;
  border-top: 1px solid var(--line);
}
.path {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
