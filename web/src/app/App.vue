<script setup lang="ts">
import Button from "primevue/button";
import ConfirmDialog from "primevue/confirmdialog";
import Dialog from "primevue/dialog";
import Toast from "primevue/toast";

import { expired } from "@/api/session";
import { t } from "@/texts/app";

import ChangeToast from "./ChangeToast.vue";
import ClashDialog from "./ClashDialog.vue";
import KeyList from "./KeyList.vue";
import { listOpen, useKeys } from "./keys";

useKeys(t("everywhere"), [
  { key: "?", does: t("thisListOfKeys"), run: () => (listOpen.value = !listOpen.value) },
]);
const signIn = () =>
  window.location.assign(
    `/sign-in?next=${encodeURIComponent(window.location.pathname + window.location.search)}`,
  );
</script>

<template>
  <RouterView />
  <KeyList v-if="listOpen" v-model:open="listOpen" />
  <ClashDialog />
  <ConfirmDialog />
  <Dialog
    :visible="expired"
    modal
    :closable="false"
    :header="t('sessionExpired')"
    :style="{ width: '26rem' }"
  >
    <p>{{ t("signInAgainToGoOn") }}</p>
    <template #footer><Button :label="t('signIn')" autofocus @click="signIn" /></template>
  </Dialog>
  <Toast position="bottom-left" />
  <ChangeToast />
</template>
