<script setup lang="ts">
import Avatar from "primevue/avatar";
import Button from "primevue/button";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { pictureOf } from "@/api/pictures";
import { useProjects } from "@/api/queries";
import { signOut, useWho } from "@/api/session";
import type { Project } from "@/api/types";
import { whenOf } from "@/app/when";
import Mark from "@/parts/Mark.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/start";

import InboxBadge from "./team/InboxBadge.vue";
import NewProject from "./NewProject.vue";

/** All projects that one is in: what waits in each, who is in, what was changed last. */
const router = useRouter();
const projects = useProjects();
const making = ref(false);
const who = useWho();
const count = computed(() => projects.data.value?.length ?? 0);

const rights: Record<string, string> = {
  look: t("youMayLook"),
  prepare: t("youMayPrepareAndDeliver"),
  rules: t("youMaySetTheRules"),
  manage: t("youManage"),
};
/** What waits, worst first; an empty list when nothing does. */
function waitingIn({ waiting }: Project): { severity: "error" | "warning" | "judging"; label: string }[] {
  const counts = [
    ["error", waiting.errors, t("withErrors")],
    ["warning", waiting.warnings, t("withWarnings")],
    ["warning", waiting.undecided, t("countUndecidedFiles", { count: waiting.undecided })],
    ["judging", waiting.unchecked, t("beingChecked")],
  ] as const;
  return counts
    .filter(([, number]) => number > 0)
    .map(([severity, number, words]) => ({ severity, label: `${number} ${words}` }));
}

async function leave(): Promise<void> {
  await signOut();
  window.location.assign("/sign-in");
}
</script>

<template>
  <main class="screen">
    <ScreenHead :title="t('projects')" :state="t('n1Project', { count })">
      <template #actions>
        <InboxBadge />
        <Button :label="t('newProject')" icon="pi pi-plus" @click="making = true" />
        <Button
          v-if="who.administrator"
          text
          severity="secondary"
          icon="pi pi-users"
          :label="t('accounts')"
          @click="router.push({ name: 'accounts' })"
        />
        <Button text severity="secondary" :label="t('signOut')" @click="leave" />
      </template>
    </ScreenHead>
    <div class="scroll content">
      <StateView :query="projects" :rows="4" height="7rem" :empty="count === 0">
        <template #empty>
          <p class="soft">{{ t("youAreInNoProjectYet") }}</p>
        </template>
        <ul>
          <li v-for="project in projects.data.value" :key="project.slug" :data-project="project.slug">
            <RouterLink class="name target" :to="{ name: 'overview', params: { slug: project.slug } }">{{
              project.name
            }}</RouterLink>
            <span class="row waiting">
              <span v-for="one in waitingIn(project)" :key="one.label"
                ><Mark :severity="one.severity" /> {{ one.label }}</span
              >
              <span v-if="!waitingIn(project).length" class="soft">{{ t("nothingWaits") }}</span>
            </span>
            <RouterLink
              v-if="project.prints.length"
              class="prints"
              :to="{ name: 'sets', params: { slug: project.slug } }"
              :aria-label="t('setsOf', { name: project.name })"
            >
              <img
                v-for="one in project.prints"
                :key="one.id"
                :src="pictureOf(project.slug, one, { side: 192 })"
                alt=""
              />
            </RouterLink>
            <span class="soft"
              >{{ t("deliversTo", { count: project.sets }) }} <span class="mono">{{ project.target }}</span>;
              {{ rights[project.right] ?? project.right
              }}<template v-if="project.last_change">{{
                t("lastChange", {
                  label: project.last_change.label,
                  by: project.last_change.by ?? t("somebody"),
                  when: whenOf(project.last_change.at),
                })
              }}</template></span
            >
            <span class="row people">
              <Avatar
                v-for="person in project.people.slice(0, 6)"
                :key="person"
                :label="person.slice(0, 2)"
                :title="person"
                :aria-label="person"
                role="img"
              />
              <span v-if="project.people.length > 6" class="soft">{{
                t("andMore", { count: project.people.length - 6 })
              }}</span>
            </span>
          </li>
        </ul>
      </StateView>
    </div>
    <NewProject v-if="making" v-model:open="making" :projects="projects.data.value ?? []" />
  </main>
</template>

<style scoped>
.content {
  flex: 1;
}
ul {
  list-style: none;
  padding: 0 var(--space-4);
  margin: 0 auto;
  max-width: 1100px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px var(--space-4);
  padding: var(--space-3) 0;
  border-bottom: 1px solid var(--line);
  align-items: center;
}
.name {
  font-size: var(--text-large);
  font-weight: 650;
  text-decoration: none;
}
.waiting {
  gap: var(--space-4);
}
.prints {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: repeat(8, 1fr);
  gap: 4px;
  margin: 4px 0;
}
.prints img {
  display: block;
  width: 100%;
  aspect-ratio: 1;
  object-fit: cover;
  background: var(--surround);
}
.people {
  gap: 4px;
  justify-self: end;
}
p {
  padding: var(--space-6) var(--space-4);
}
</style>
