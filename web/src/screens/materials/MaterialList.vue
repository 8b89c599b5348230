<script setup lang="ts">
import Button from "primevue/button";
import ContextMenu from "primevue/contextmenu";
import InputText from "primevue/inputtext";
import Menu from "primevue/menu";
import type { MenuItem } from "primevue/menuitem";
import Tag from "primevue/tag";
import Tree from "primevue/tree";
import { computed, ref, watch } from "vue";
import { useRouter } from "vue-router";

import type { Adoption, CastRow } from "@/api/materials";
import { useKeys } from "@/app/keys";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/materials";

import { keysWithChildren, type Leaf, treeOf } from "./materialTree";

/** The masters that the project uses, with the casts of each; what can be done with the selected one. */
const props = defineProps<{
  slug: string;
  masters: Adoption[];
  casts: CastRow[];
  cast: number;
  master: string;
  mayChange: boolean;
}>();
const emit = defineEmits<{ derive: [from: { master?: string; parent?: number }, of: string] }>();
const router = useRouter();
const words = ref("");
const search = ref<{ $el: HTMLInputElement }>();
const menu = ref<InstanceType<typeof ContextMenu>>();
const entries = ref<MenuItem[]>([]);
const more = ref<InstanceType<typeof Menu>>();
const showMore = (event: MouseEvent) => more.value?.toggle(event);
const tree = computed(() => treeOf(props.masters, props.casts, words.value));
const opened = ref<Record<string, boolean>>({});
const expanded = computed({
  get: () => (words.value.trim() ? keysWithChildren(tree.value) : opened.value),
  set: (keys) => (opened.value = keys),
});
const FEW_MASTERS = 6;
watch(
  () => props.masters.length,
  (count) => {
    if (count && count <= FEW_MASTERS && !Object.keys(opened.value).length)
      opened.value = Object.fromEntries(props.masters.map((one) => [`master ${one.master}`, true]));
  },
  { immediate: true },
);
/** The way to what is looked at is open. */
watch(
  [() => props.cast, () => props.casts.length],
  () => {
    const next = { ...opened.value };
    let at = props.casts.find((one) => one.id === props.cast);
    if (at) next[`master ${at.master}`] = true;
    while (at && at.parent !== null) {
      next[`cast ${at.parent}`] = true;
      const { parent } = at;
      at = props.casts.find((one) => one.id === parent);
    }
    opened.value = next;
  },
  { immediate: true },
);
const selected = computed(() => {
  if (props.cast) return { [`cast ${props.cast}`]: true };
  return props.master ? { [`master ${props.master}`]: true } : {};
});
const go = (kind: string, key: string | number) =>
  void router.push({ name: "materials", params: { slug: props.slug, kind, key } });
const open = (leaf: Leaf) =>
  leaf.kind === "cast" ? go("cast", leaf.cast.id) : go("master", leaf.master.master);
const current = computed<Leaf | null>(() => {
  const cast = props.casts.find((one) => one.id === props.cast);
  if (cast) return { kind: "cast", cast };
  const master = props.masters.find((one) => one.master === props.master);
  return master ? { kind: "master", master } : null;
});
function derive(leaf: Leaf): void {
  if (leaf.kind === "cast") emit("derive", { parent: leaf.cast.id }, leaf.cast.name);
  else emit("derive", { master: leaf.master.master }, leaf.master.title);
}
function entriesOf(leaf: Leaf): MenuItem[] {
  const name = leaf.kind === "cast" ? leaf.cast.master : leaf.master.master;
  const master = props.masters.find((one) => one.master === name);
  return [
    { label: t("open"), command: () => open(leaf) },
    { label: t("newCast"), visible: props.mayChange, command: () => derive(leaf) },
    { label: t("compareCasts"), visible: (master?.casts ?? 0) > 1, command: () => go("compare", name) },
    { label: t("export"), visible: (master?.casts ?? 0) > 0, command: () => go("write", name) },
    {
      label: t("updateTo", { newest: master?.newest }),
      visible: master?.update_available ?? false,
      command: () => go("update", name),
    },
  ];
}
function showMenu(event: MouseEvent, leaf: Leaf): void {
  entries.value = entriesOf(leaf);
  menu.value?.show(event);
}
useKeys(t("materials"), [
  { key: "/", does: t("findACastOrMaster"), run: () => search.value?.$el.focus() },
  { key: "N", does: t("newCastFromTheSelectedOne"), run: () => current.value && derive(current.value) },
]);
</script>

<template>
  <aside :aria-label="t('materialsOfTheProject')">
    <div class="head">
      <InputText
        ref="search"
        v-model="words"
        fluid
        :placeholder="t('find')"
        :aria-label="t('findACastOrMaster')"
      />
      <div v-if="current" class="row">
        <Button
          v-if="mayChange"
          outlined
          icon="pi pi-plus"
          :label="t('newCast')"
          :title="
            t('newCastFrom', { name: current.kind === 'cast' ? current.cast.name : current.master.title })
          "
          @click="derive(current)"
        />
        <span class="grow" />
        <Button
          text
          severity="secondary"
          icon="pi pi-ellipsis-h"
          :label="t('more')"
          aria-haspopup="menu"
          @click="showMore"
        />
        <Menu ref="more" :model="entriesOf(current).slice(1)" popup />
      </div>
    </div>
    <p v-if="!masters.length" class="soft none">
      {{ t("noMasterIsInUseYet") }}
    </p>
    <p v-else-if="!tree.length" class="soft none">{{ t("nothingHasThatName") }}</p>
    <Tree
      v-model:expanded-keys="expanded"
      :value="tree"
      :selection-keys="selected"
      selection-mode="single"
      class="scroll"
      @node-select="(node) => open(node.data as Leaf)"
    >
      <template #default="{ node }">
        <span
          v-if="(node.data as Leaf).kind === 'master'"
          class="node"
          :data-master="(node.data as { master: Adoption }).master.master"
          @contextmenu.prevent="showMenu($event, node.data as Leaf)"
        >
          <b>{{ node.label }}</b>
          <span class="soft">{{ (node.data as { master: Adoption }).master.number }}</span>
          <Tag
            v-if="(node.data as { master: Adoption }).master.update_available"
            severity="warn"
            :value="t('updateAvailable', { newest: (node.data as { master: Adoption }).master.newest })"
          />
          <Tag v-if="(node.data as { master: Adoption }).master.pinned" severity="secondary" value="pinned" />
          <Tag
            v-if="(node.data as { master: Adoption }).master.deprecated"
            severity="warn"
            value="deprecated"
          />
          <span
            v-if="(node.data as { master: Adoption }).master.over_budget.length"
            class="warning small"
            data-test="over-budget"
            ><Mark severity="warning" />
            {{ (node.data as { master: Adoption }).master.over_budget.join("; ") }}</span
          >
        </span>
        <span v-else class="node" @contextmenu.prevent="showMenu($event, node.data as Leaf)">
          {{ node.label }}
          <Mark
            v-if="(node.data as { cast: CastRow }).cast.worst"
            :severity="(node.data as { cast: CastRow }).cast.worst!"
          />
        </span>
      </template>
    </Tree>
    <ContextMenu ref="menu" :model="entries" />
  </aside>
</template>

<style scoped>
aside {
  height: 100%;
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr);
  background: var(--sheet);
}
.head {
  display: grid;
  gap: var(--space-2);
  padding: var(--space-2);
}
.none {
  padding: var(--space-2) var(--space-3);
}
.node {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 2px 6px;
  align-items: center;
  min-height: 24px;
}
.p-tree {
  padding: 0 var(--space-1);
}
</style>
