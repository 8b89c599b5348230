<script setup lang="ts">
import { computed, ref, shallowRef, watch } from "vue";

import { type Adoption, type Impact } from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";
import { vTyped } from "@/parts/typed";

import type { PreviewMaterial } from "@/preview/sheetScene";
import SheetSurface from "@/preview/SheetSurface.vue";

import UpdatePictures from "./UpdatePictures.vue";
import { plainOf } from "./values";

/** A newer version of a master: what differs, which casts it touches, what they would lose; then taken, or not. */
const props = defineProps<{ slug: string; adoption: Adoption; mayRule: boolean }>();
const emit = defineEmits<{ done: [] }>();
const changes = useMaterialChanges(() => props.slug);
const told = ref<Impact | null>(null);
/** A cast before and after, side by side. */
const large = shallowRef<[PreviewMaterial, PreviewMaterial] | null>(null);
const renames = ref<Record<string, string>>({});
const lost = computed(() => [...new Set((told.value?.casts ?? []).flatMap((one) => Object.keys(one.lost)))]);

async function ask(): Promise<void> {
  if (props.adoption.newest) {
    told.value = await changes.impact(props.adoption.master, props.adoption.newest, renames.value);
  }
}
watch(
  () => [props.adoption.master, props.adoption.newest],
  () => {
    renames.value = {};
    large.value = null;
    void ask();
  },
  { immediate: true },
);
function rename(old: string, name: string): void {
  const next = { ...renames.value };
  if (name.trim()) next[old] = name.trim();
  else delete next[old];
  renames.value = next;
  void ask();
}
async function take(): Promise<void> {
  if (await changes.adopt(props.adoption, props.adoption.newest!, renames.value)) emit("done");
}
</script>

<template>
  <section class="scroll update" aria-label="Update">
    <header>
      <h1>{{ adoption.title }}: {{ adoption.number }} → {{ adoption.newest }}</h1>
      <button v-if="mayRule" class="do" :disabled="changes.busy.value || !told" @click="take">
        Update {{ adoption.casts }} casts
      </button>
      <button v-if="mayRule" class="plain link" @click="changes.pin(adoption, !adoption.pinned)">
        {{ adoption.pinned ? "Unpin" : `Stay with ${adoption.number}` }}
      </button>
    </header>
    <template v-if="told">
      <h2>What differs</h2>
      <table>
        <tbody>
          <tr v-for="(one, at) in told.changes" :key="at" :class="String(one.breaks)">
            <td>{{ one.message }}</td>
            <td class="mono">{{ one.before ?? "" }}</td>
            <td class="mono">{{ one.after ?? "" }}</td>
            <td>
              {{
                one.breaks === "removes"
                  ? "casts may lose"
                  : one.breaks === "changes"
                    ? "looks otherwise"
                    : ""
              }}
            </td>
          </tr>
        </tbody>
      </table>
      <h2>Casts</h2>
      <table aria-label="Casts touched">
        <tbody>
          <tr v-for="one in told.casts" :key="one.cast">
            <td>
              <b>{{ one.name }}</b>
            </td>
            <td>{{ one.kept === 1 ? "1 change" : `${one.kept} changes` }} kept</td>
            <td>
              <span v-for="(why, name) in one.lost" :key="name" class="removes"
                ><span class="mono">{{ name }}</span
                >: {{ why }}
              </span>
              <span v-if="!Object.keys(one.lost).length" class="soft">nothing lost</span>
            </td>
          </tr>
        </tbody>
      </table>
      <UpdatePictures
        v-if="adoption.newest && told.casts.length"
        :slug="slug"
        :master="adoption.master"
        :number="adoption.newest"
        :casts="told.casts"
        @look="(before, after) => (large = [before, after])"
      />
      <div v-if="large" class="large">
        <button class="plain link" @click="large = null">Put the large picture away</button>
        <SheetSurface
          :key="large[0].name"
          :name="large[0].name"
          :sheet="large[0].sheet"
          :values="large[0].values"
          :slots="large[0].slots"
          :second="large[1]"
          :plain-of="plainOf"
        />
      </div>
      <template v-if="lost.length || Object.keys(renames).length">
        <h2>Called otherwise now?</h2>
        <label v-for="name in [...new Set([...lost, ...Object.keys(renames)])]" :key="name" class="rename"
          ><span class="mono">{{ name }}</span> is now
          <input
            v-typed="renames[name] ?? ''"
            class="mono"
            @change="rename(name, ($event.target as HTMLInputElement).value)"
        /></label>
      </template>
    </template>
  </section>
</template>

<style scoped>
.update {
  padding: 10px 16px;
  display: grid;
  gap: 10px;
  align-content: start;
}
header {
  display: flex;
  gap: 14px;
  align-items: center;
}
table {
  border-collapse: collapse;
  font-size: 12px;
}
td {
  border-top: 1px solid var(--line);
  padding: 4px 14px 4px 0;
  vertical-align: top;
}
.removes {
  color: var(--error);
}
.changes {
  color: var(--warning);
}
.rename {
  font-size: 12px;
}
input {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
}
.large {
  display: grid;
  grid-template-rows: auto 520px;
  max-width: 900px;
}
.link {
  color: var(--accent);
}
</style>
