<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";

import { useOutdated } from "@/api/watched";
import { t } from "@/texts/versions";

/** Deliveries that hold a former state: of one set, or of all. */
const props = defineProps<{ slug: string; set: number | null }>();
const outdated = useOutdated(
  () => props.slug,
  () => props.set,
);
</script>

<template>
  <Message
    v-for="one in outdated.data.value ?? []"
    :key="one.target"
    severity="warn"
    :closable="false"
    data-test="outdated"
  >
    {{ t("oldDelivery", { count: one.sets.length, number: one.number, title: one.title }) }}
    <template v-if="one.destinations.length">
      {{ t("liesAt", { places: one.destinations.join(", ") }) }}
    </template>
    <Button
      as="router-link"
      text
      size="small"
      :label="t('deliverAgain')"
      :to="{ name: 'deliveries', params: { slug }, query: { target: one.target } }"
    />
  </Message>
</template>
