<script setup lang="ts">
import Button from "primevue/button";
import Toast from "primevue/toast";
import { useToast } from "primevue/usetoast";

import type { Notice } from "@/api/notices";
import { t } from "@/texts/app";

/** What was changed just now, with the way back. */
const toast = useToast();
function undo(message: Notice): void {
  toast.removeGroup("changes");
  message.undo?.();
}
</script>

<template>
  <Toast group="changes" position="bottom-left">
    <template #message="{ message }: { message: Notice }">
      <div class="row notice">
        <span>{{ message.summary }}</span>
        <Button v-if="message.undo" outlined :label="t('undo')" @click="undo(message)" />
      </div>
    </template>
  </Toast>
</template>

<style scoped>
.notice {
  flex: 1;
  justify-content: space-between;
}
</style>
