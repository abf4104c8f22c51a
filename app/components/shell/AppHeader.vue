<script setup lang="ts">
import { Keyboard, Moon, Redo2, Sun, Undo2 } from 'lucide-vue-next'
import { STATIONS, useOpenDocument, useShown, useStation } from '../../stations'
import { useClip } from '../../stores/clip'
import { useCrowd } from '../../stores/crowd'
import { useFigure } from '../../stores/figure'
import { usePose } from '../../stores/pose'
import { useTarget } from '../../stores/target'
import { useView } from '../../stores/view'

const open = useOpenDocument()
const shown = useShown()
const clip = useClip()
const crowd = useCrowd()
const figure = useFigure()
const pose = usePose()
const target = useTarget()
const view = useView()
const station = useStation()
const SAVE_WORDS = {
  saved: 'Saved',
  waiting: 'Saving …',
  saving: 'Saving …',
  away: 'Server away – kept here',
  conflict: 'Changed in another window',
  refused: 'Not saved',
}
</script>

<template>
  <header>
    <div class="name"><img src="/mark.svg" alt="" width="22" height="22" /> <span>Idle Tinker</span></div>
    <nav aria-label="Stations">
      <NuxtLink v-for="s in STATIONS" :key="s.route" :to="s.route">{{ s.name }}</NuxtLink>
    </nav>
    <b v-if="open === target" class="limits" data-test="open-target">Limits: {{ target.now?.name }}</b>
    <PicksList v-else-if="station?.edits === 'picks'" />
    <MixList v-else-if="shown === crowd" />
    <FigureList v-else />
    <b v-if="open === pose" class="limits" data-test="open-pose">Pose: {{ pose.now?.name }}</b>
    <b v-else-if="open === clip" class="limits" data-test="open-clip">Clip: {{ clip.now?.name }}</b>
    <span
      class="soft save"
      :class="{ over: open.save === 'conflict' || open.save === 'refused' }"
      role="status"
      data-test="save-state"
      >{{ SAVE_WORDS[open.save]
      }}<template v-if="open.unkept.length">: {{ open.unkept.map((p) => p.message).join(' ') }}</template></span
    >
    <template v-if="open.save === 'conflict'">
      <Button size="small" text label="Take theirs" @click="open.resolveConflict(false)" />
      <Button size="small" text label="Keep mine as a copy" @click="open.resolveConflict(true)" />
    </template>
    <div class="tools">
      <button
        class="quiet"
        :disabled="!open.canUndo"
        aria-label="Undo"
        title="Undo (Ctrl+Z)"
        data-test="undo"
        @click="open.undo()"
      >
        <Undo2 :size="18" />
      </button>
      <button
        class="quiet"
        :disabled="!open.canRedo"
        aria-label="Redo"
        title="Redo (Ctrl+Shift+Z)"
        data-test="redo"
        @click="open.redo()"
      >
        <Redo2 :size="18" />
      </button>
      <StepList v-if="open === figure" />
      <button class="quiet" aria-label="Keys" title="Keys (?)" @click="view.sheet = true">
        <Keyboard :size="18" />
      </button>
      <button
        class="quiet"
        :aria-label="view.lamp ? 'Paper' : 'Lamp'"
        :title="view.lamp ? 'Paper (light)' : 'Lamp (dark)'"
        data-test="theme"
        @click="view.setLamp(!view.lamp)"
      >
        <component :is="view.lamp ? Sun : Moon" :size="18" />
      </button>
    </div>
  </header>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 var(--s4);
  min-height: 52px;
  padding: 0 var(--s4);
  border-bottom: 1px solid var(--rule);
  background: var(--sheet);
}

.name {
  font: 700 16px var(--head);
  display: flex;
  align-items: center;
  gap: var(--s2);
  white-space: nowrap;
}

nav {
  display: flex;
  gap: 2px;
  height: 51px;
}

nav a {
  display: grid;
  place-items: center;
  padding: 0 12px;
  font: 550 15px var(--head);
  color: var(--ink-soft);
  text-decoration: none;
  border-bottom: 3px solid transparent;
  border-top: 3px solid transparent;
}

nav a:hover {
  color: var(--ink);
}

nav a.router-link-active {
  color: var(--ink);
  border-bottom-color: var(--act);
}

.limits {
  padding: 6px 8px;
}

.save {
  font-size: 12px;
  min-width: 0;
  max-height: 40px;
  overflow: hidden;
}

.over {
  color: var(--over);
}

.tools {
  margin-left: auto;
  display: flex;
  gap: var(--s1);
}

@media (max-width: 959px) {
  header {
    gap: 0 var(--s2);
    padding: 0 var(--s2);
  }

  .name span {
    display: none;
  }

  nav {
    height: 42px;
  }

  nav a {
    padding: 0 8px;
    font-size: 14px;
  }
}
</style>
