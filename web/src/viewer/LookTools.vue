<script setup lang="ts">
import { surround } from "@/app/theme";

import { bend, expose, levelBy, type Look, plain, REPEATS } from "./look";

/** Below the picture: tiling, exposure, gamma, mip level, statistics, and the grey around it. */
defineProps<{ levels: number }>();
const look = defineModel<Look>("look", { required: true });
</script>

<template>
  <div class="tools" role="toolbar" aria-label="How the picture is looked at">
    <label class="soft"
      >Tiles
      <select v-model.number="look.repeat" aria-label="Tiles along a side">
        <option v-for="count in REPEATS" :key="count" :value="count">{{ count }}</option>
      </select></label
    >
    <button
      class="toggle"
      :aria-pressed="look.half"
      title="Move by half a tile, to see the seam (N)"
      @click="look.half = !look.half"
    >
      ½
    </button>
    <span class="pair" title="Exposure in stops: [ and ]">
      <button aria-label="Darker" @click="expose(look, -1)">−</button>
      <span class="number">{{ look.exposure > 0 ? "+" : "" }}{{ look.exposure }}</span>
      <button aria-label="Brighter" @click="expose(look, 1)">+</button>
    </span>
    <span class="pair" title="Gamma: comma and full stop">
      <button aria-label="γ−, less gamma" @click="bend(look, 1 / 1.25)">γ−</button>
      <span class="number">{{ look.gamma }}</span>
      <button aria-label="γ+, more gamma" @click="bend(look, 1.25)">γ+</button>
    </span>
    <span class="pair" title="Mip level: M and Shift+M">
      <button aria-label="Larger mip" :disabled="look.level === 0" @click="levelBy(look, -1, levels)">
        ‹
      </button>
      <span class="number">mip {{ look.level }}</span>
      <button aria-label="Smaller mip" :disabled="look.level >= levels - 1" @click="levelBy(look, 1, levels)">
        ›
      </button>
    </span>
    <button
      v-if="look.exposure || look.gamma !== 1 || look.level"
      class="toggle"
      title="As it is (0)"
      @click="plain(look)"
    >
      as it is
    </button>
    <button
      class="toggle"
      :aria-pressed="look.statistics"
      title="Statistics (S)"
      @click="look.statistics = !look.statistics"
    >
      <i class="pi pi-chart-bar" aria-label="Statistics" />
    </button>
    <label class="soft surround"
      >Surround
      <input v-model.number="surround" type="range" min="0" max="255" aria-label="Brightness of the surround"
    /></label>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 0 8px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
}
.tools label {
  display: flex;
  gap: 4px;
  align-items: center;
}
.surround {
  margin-left: auto;
}
.surround input {
  width: 72px;
  accent-color: var(--ink-soft);
}
.toggle,
.pair button {
  border: 1px solid var(--line-strong);
  background: var(--sheet);
  color: inherit;
  padding: 0 7px;
  cursor: pointer;
}
.toggle[aria-pressed="true"] {
  background: var(--ink);
  color: var(--sheet);
}
.pair {
  display: flex;
  align-items: center;
}
.pair .number {
  min-width: 36px;
  padding: 0 4px;
  text-align: center;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.pair button:disabled {
  color: var(--line-strong);
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
}
</style>
