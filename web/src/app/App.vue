<script setup lang="ts">
import Toast from "primevue/toast";
import { ref } from "vue";

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
  <Toast position="bottom-left" />
</template>
