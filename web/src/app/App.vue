<script setup lang="ts">
import Toast from "primevue/toast";
import { ref } from "vue";

import ClashDialog from "./ClashDialog.vue";
import KeyList from "./KeyList.vue";
import { useKeys } from "./keys";

const listOpen = ref(false);
useKeys("Everywhere", [
  { key: "?", does: "This list of keys", run: () => (listOpen.value = !listOpen.value) },
]);
</script>

<template>
  <RouterView />
  <KeyList v-model:open="listOpen" />
  <ClashDialog />
  <Toast position="bottom-left" />
</template>
