<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import { computed, ref } from "vue";

import { useInbox, useTeamChanges } from "@/api/team";
import { router } from "@/app/router";
import { whenOf } from "@/app/when";
import { t } from "@/texts/team";

/** What waits for oneself over all projects, and what one was told. */
const { notices, waiting } = useInbox();
const changes = useTeamChanges("");
const list = ref<InstanceType<typeof Popover>>();
const unseen = computed(() => (notices.data.value ?? []).filter((one) => one.seen === null));
const count = computed(() => (waiting.data.value?.length ?? 0) + unseen.value.length);
const KINDS: Record<string, string> = {
  approve: t("toApprove"),
  sent_back: t("waitSentBack"),
  mention: t("waitMention"),
};
const SHOWN = 30;
function go(path: string, notice?: number): void {
  if (notice !== undefined) void changes.see(notice);
  list.value?.hide();
  void router.push(path);
}
</script>

<template>
  <Button
    text
    severity="secondary"
    icon="pi pi-bell"
    :badge="count ? String(count) : undefined"
    :aria-label="count ? t('inbox', { count }) : t('nothingForYou')"
    :title="count ? t('inbox', { count }) : t('nothingForYou')"
    data-test="inbox"
    @click="list?.toggle($event)"
  />
  <Popover ref="list" :aria-label="t('forYou')">
    <div class="inbox">
      <h2>{{ t("forYou") }}</h2>
      <p v-if="!waiting.data.value?.length" class="soft">{{ t("nothingForYou") }}</p>
      <ul>
        <li v-for="one in waiting.data.value?.slice(0, SHOWN)" :key="one.path + one.at">
          <Button text severity="secondary" @click="go(one.path)">
            <span class="line"
              ><b>{{ one.text }}</b> <span class="soft">{{ one.by }} {{ KINDS[one.kind] }}</span></span
            >
            <span class="soft">{{ one.project }}, {{ whenOf(one.at) }}</span>
          </Button>
        </li>
      </ul>
      <h2>{{ t("notices") }}</h2>
      <p v-if="!notices.data.value?.length" class="soft">{{ t("noNotices") }}</p>
      <ul>
        <li v-for="one in notices.data.value?.slice(0, SHOWN)" :key="one.id">
          <Button
            text
            severity="secondary"
            :class="{ unseen: one.seen === null }"
            @click="go(one.path, one.id)"
          >
            <span class="line">{{ one.text }}</span>
            <span class="soft">{{ one.project }}, {{ whenOf(one.created) }}</span>
          </Button>
        </li>
      </ul>
      <Button
        v-if="unseen.length"
        size="small"
        severity="secondary"
        :label="t('allSeen')"
        @click="changes.see(null)"
      />
    </div>
  </Popover>
</template>

<style scoped>
.inbox {
  width: 26rem;
  max-height: 70vh;
  overflow: auto;
}
ul {
  list-style: none;
  margin: 0 0 var(--space-3);
  padding: 0;
}
li :deep(.p-button) {
  display: grid;
  width: 100%;
  text-align: left;
  justify-content: start;
  justify-items: start;
}
.line {
  overflow-wrap: anywhere;
}
.unseen {
  box-shadow: inset 2px 0 var(--accent);
}
</style>
