<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import { computed, ref } from "vue";

import { whenOf } from "@/app/when";
import { t } from "@/texts/team";

/** A link that works once, as it is shown this once; it can be copied. */
const props = defineProps<{ link: { path: string; until: string } }>();
const address = computed(() => `${window.location.origin}${props.link.path}`);
const copied = ref(false);
const text = ref<HTMLElement>();

async function copy(): Promise<void> {
  try {
    await navigator.clipboard.writeText(address.value);
  } catch {
    // Without a secure address the browser keeps its clipboard to itself: the text is chosen for the keys.
    if (text.value) window.getSelection()?.selectAllChildren(text.value);
    return;
  }
  copied.value = true;
}
</script>

<template>
  <Message severity="secondary" :closable="false" data-test="link">
    {{ t("linkForOnce", { day: whenOf(link.until) }) }}
    <span ref="text" class="mono">{{ address }}</span>
    <Button
      size="small"
      severity="secondary"
      icon="pi pi-copy"
      :label="copied ? t('copied') : t('copyLink')"
      @click="copy"
    />
  </Message>
</template>

<style scoped>
.mono {
  display: block;
  overflow-wrap: anywhere;
  margin: var(--space-1) 0;
}
</style>
