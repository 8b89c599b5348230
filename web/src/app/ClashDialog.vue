<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import { computed } from "vue";

import { clash } from "@/api/conflicts";
import { t } from "@/texts/app";

import ClashValue from "./ClashValue.vue";

/** Somebody else changed the same thing meanwhile: both states beside each other, and which shall hold. */
const sides = computed(() => {
  const now = clash.value;
  return [
    { key: "theirs", title: t("theirVersion"), words: now?.theirs, shown: now?.pictures?.theirs },
    { key: "mine", title: t("yourVersion"), words: now?.mine, shown: now?.pictures?.mine },
  ];
});
const percent = (share: number) => `${share * 100}%`;
</script>

<template>
  <Dialog
    :visible="clash !== null"
    modal
    :closable="false"
    :header="t('wasChangedBySomebodyElse', { about: clash?.about ?? '' })"
    :style="{ width: clash?.pictures ? 'min(94vw, 62rem)' : 'min(94vw, 42rem)' }"
    data-test="clash"
  >
    <div class="both">
      <section v-for="side in sides" :key="side.key" :aria-label="side.title" :data-side="side.key">
        <h2>{{ side.title }}</h2>
        <p class="words">{{ side.words }}</p>
        <div v-if="clash?.pictures" class="picture">
          <template v-if="side.shown">
            <img :src="side.shown.url" :alt="side.title" />
            <span
              v-for="(one, at) in side.shown.regions ?? []"
              :key="at"
              class="region"
              :style="{
                left: percent(one.left),
                top: percent(one.top),
                width: percent(one.width),
                height: percent(one.height),
              }"
              ><span class="name">{{ one.name }}</span></span
            >
          </template>
          <span v-else class="none">{{ t("noPicture") }}</span>
        </div>
      </section>
    </div>
    <table v-if="clash?.values?.length" class="table">
      <thead>
        <tr>
          <th scope="col">{{ t("place") }}</th>
          <th scope="col">{{ t("theirVersion") }}</th>
          <th scope="col">{{ t("yourVersion") }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in clash.values" :key="one.name">
          <th scope="row">{{ one.name }}</th>
          <td><ClashValue :value="one.theirs" /></td>
          <td><ClashValue :value="one.mine" /></td>
        </tr>
      </tbody>
    </table>
    <p class="soft">{{ t("eitherWayWhoeverMadeTheOther") }}</p>
    <template #footer>
      <Button :label="t('keepTheirVersion')" severity="secondary" autofocus @click="clash?.decide(false)" />
      <Button :label="t('useMyVersion')" @click="clash?.decide(true)" />
    </template>
  </Dialog>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: var(--space-3);
}
h2 {
  font-size: inherit;
  color: var(--ink-soft);
  margin: 0;
}
.words {
  margin: 0 0 var(--space-2);
  overflow-wrap: anywhere;
}
.picture {
  position: relative;
  min-height: 8rem;
  line-height: 0;
  background: var(--surround);
  color: var(--on-surround);
}
img {
  width: 100%;
}
.none {
  display: grid;
  place-items: center;
  height: 8rem;
  line-height: normal;
}
.region {
  position: absolute;
  box-sizing: border-box;
  border: 2px solid var(--on-surround);
  outline: 1px solid var(--surround);
  line-height: normal;
}
.name {
  background: var(--surround);
  color: var(--on-surround);
  padding: 0 var(--space-1);
}
th[scope="row"] {
  font-weight: normal;
  color: var(--ink-soft);
}
.soft {
  margin: var(--space-3) 0 0;
}
</style>
