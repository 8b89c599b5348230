<script setup lang="ts">
import { computed, ref } from "vue";

import type { StepKind } from "@/api/recipes";
import type { RoleInfo, SetDetail, TextureMap } from "@/api/types";

import StepOptions from "./StepOptions.vue";
import type { Draft } from "./useDraft";

/** The steps of a map, in order: tried out on the picture as they are changed, kept or discarded as one. */
const props = defineProps<{
  draft: Draft;
  kinds: StepKind[];
  set: SetDetail;
  map: TextureMap;
  roles: RoleInfo[];
  mayChange: boolean;
}>();
const emit = defineEmits<{ keep: [] }>();

const open = ref(0);
const kindOf = (step: string) => props.kinds.find((one) => one.step === step) ?? null;
const groups = computed(() => {
  const fitting = props.kinds.filter((one) => one.roles.includes(props.map.role));
  return [...new Set(fitting.map((one) => one.group))].map((group) => ({
    group,
    kinds: fitting.filter((one) => one.group === group),
  }));
});
const label = (role: string) => props.roles.find((one) => one.key === role)?.label ?? role;
/** Maps that a step may read: every one of the set, numbered where a role has several. */
const others = computed(() => {
  const seen = new Map<string, number>();
  return props.set.maps.map((map) => {
    const number = (seen.get(map.role) ?? 0) + 1;
    seen.set(map.role, number);
    return {
      key: number > 1 ? `${map.role}/${number}` : map.role,
      label: number > 1 ? `${label(map.role)}, number ${number}` : label(map.role),
    };
  });
});

function add(event: Event): void {
  const select = event.target as HTMLSelectElement;
  const kind = kindOf(select.value);
  if (kind) {
    props.draft.add(kind);
    open.value = props.draft.steps.value.length - 1;
  }
  select.value = "";
}
</script>

<template>
  <div class="steps">
    <p v-if="!draft.steps.value.length" class="soft">No steps: the map is its source, untouched.</p>
    <ol v-else aria-label="Steps">
      <li v-for="(step, index) in draft.steps.value" :key="index" :class="{ off: step.off }">
        <div class="head">
          <input
            type="checkbox"
            :checked="!step.off"
            :disabled="!mayChange"
            :aria-label="`${kindOf(step.step)?.label ?? step.step}: in force`"
            @change="draft.toggle(index)"
          />
          <button
            class="plain name"
            :aria-expanded="open === index"
            @click="open = open === index ? -1 : index"
          >
            {{ kindOf(step.step)?.label ?? step.step }}
          </button>
          <template v-if="mayChange">
            <button class="plain" :disabled="index === 0" aria-label="Earlier" @click="draft.move(index, -1)">
              <i class="pi pi-arrow-up" />
            </button>
            <button
              class="plain"
              :disabled="index === draft.steps.value.length - 1"
              aria-label="Later"
              @click="draft.move(index, 1)"
            >
              <i class="pi pi-arrow-down" />
            </button>
            <button
              class="plain"
              :aria-label="`Remove ${kindOf(step.step)?.label ?? step.step}`"
              @click="draft.remove(index)"
            >
              <i class="pi pi-times" />
            </button>
          </template>
        </div>
        <StepOptions
          v-if="open === index && kindOf(step.step)?.options.length && mayChange"
          :kind="kindOf(step.step)!"
          :step="step"
          :maps="others"
          @set="(option, value) => draft.set(index, option, value)"
        />
      </li>
    </ol>
    <div v-if="draft.dirty.value" class="keep" role="status">
      <span>Tried out, not kept</span>
      <button class="do" @click="emit('keep')">Keep <kbd>Enter</kbd></button>
      <button class="plain link" @click="draft.discard()">Discard <kbd>Esc</kbd></button>
    </div>
    <select v-if="mayChange" aria-label="Add a step" @change="add">
      <option value="">Add a step …</option>
      <optgroup v-for="one in groups" :key="one.group" :label="one.group">
        <option v-for="kind in one.kinds" :key="kind.step" :value="kind.step">{{ kind.label }}</option>
      </optgroup>
    </select>
  </div>
</template>

<style scoped>
.steps {
  display: grid;
  gap: 6px;
  justify-items: start;
}
p {
  margin: 0;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
}
li {
  border-top: 1px solid var(--line);
}
li:last-child {
  border-bottom: 1px solid var(--line);
}
.head {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 3px 0;
}
.name {
  flex: 1;
  text-align: left;
  font-weight: 600;
}
.off .name {
  text-decoration: line-through;
  color: var(--ink-soft);
}
.head .plain {
  color: var(--ink-soft);
}
.head .name {
  color: var(--ink);
}
.head .plain:disabled {
  opacity: 0.3;
}
.keep {
  display: flex;
  gap: 8px;
  align-items: center;
  width: 100%;
  padding: 4px 6px;
  background: var(--accent-wash);
}
.keep span {
  flex: 1;
}
.do {
  border: 0;
  background: var(--accent);
  color: var(--on-accent, #fff);
  padding: 2px 8px;
  cursor: pointer;
}
.do kbd {
  color: inherit;
  background: none;
}
.link {
  color: var(--accent);
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px;
}
</style>
