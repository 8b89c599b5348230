<script setup lang="ts">
import { ref } from "vue";

import type { Master } from "@/api/materials";

/** A master's versions, the newest first, with what each changed; and the draft on its way to become one. */
const props = defineProps<{ slug: string; master: Master; busy: boolean }>();
const emit = defineEmits<{ publish: [note: string] }>();
const note = ref("");
const open = ref("");
const usedBy = (number: string) => props.master.users.filter((one) => one.number === number);
</script>

<template>
  <div class="trail">
    <form
      v-if="master.draft && master.may_write"
      @submit.prevent="
        emit('publish', note);
        note = '';
      "
    >
      <b>Draft</b>
      <input v-model="note" placeholder="what is new" aria-label="What is new" />
      <button :disabled="busy">Publish</button>
    </form>
    <b v-else-if="master.draft">Draft</b>
    <button
      v-for="one in master.versions"
      :key="one.number"
      class="plain version"
      :class="{ old: one.deprecated }"
      :aria-expanded="open === one.number"
      @click="open = open === one.number ? '' : one.number"
    >
      {{ one.number }}
    </button>
    <span v-if="!master.versions.length" class="soft">not published yet</span>
    <div
      v-for="one in master.versions.filter((each) => each.number === open)"
      :key="one.number"
      class="facts"
    >
      <p>
        {{ one.note || "No note." }} <span class="soft">{{ one.by }}, {{ one.created.slice(0, 10) }}</span>
      </p>
      <p v-if="usedBy(one.number).length" class="soft">
        Used by
        {{
          usedBy(one.number)
            .map((user) => `${user.title ?? "a project of others"} (${user.casts})`)
            .join(", ")
        }}
      </p>
      <p v-for="(change, at) in one.changes" :key="at" :class="String(change.breaks)">
        {{ change.message
        }}<template v-if="change.before || change.after"
          >: <span class="mono">{{ change.before ?? "nothing" }}</span> →
          <span class="mono">{{ change.after ?? "nothing" }}</span></template
        >
      </p>
    </div>
  </div>
</template>

<style scoped>
.trail {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  font-size: 12px;
}
form {
  display: flex;
  gap: 6px;
  align-items: center;
}
input {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 1px 4px;
}
.version {
  color: var(--accent);
}
.version[aria-expanded="true"] {
  font-weight: 650;
}
.old {
  text-decoration: line-through;
}
.facts {
  flex-basis: 100%;
  border-left: 2px solid var(--line-strong);
  padding-left: 8px;
}
.facts p {
  margin: 0;
}
.removes {
  color: var(--error);
}
.changes {
  color: var(--warning);
}
</style>
