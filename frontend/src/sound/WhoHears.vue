<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { draw, ROOM_WIDTH, WIDTH } from './drawing'

const props = defineProps<{ sound: Schemas['SoundView'] }>()
const drawing = computed(() => draw(props.sound.nodes, props.sound.lines))
const stationName = (id: string) => props.sound.declared.stations.find((one) => one.id === id)?.name ?? id
const shown = (one: { kind: string; name: string }) =>
  one.kind === 'join' ? stationName(one.name) : one.name
const short = (name: string, most: number) => (name.length > most ? `${name.slice(0, most - 1)}…` : name)
const said = computed(() =>
  props.sound.lines
    .map((line) => {
      const name = (id: string) => {
        const node = props.sound.nodes.find((one) => one.id === id)
        return node ? shown(node) : id
      }
      return `${name(line.start)} to ${name(line.end)}`
    })
    .join('; '),
)
</script>

<template>
  <section class="card" aria-label="Who hears whom">
    <h2>Who hears whom</h2>
    <svg
      :viewBox="`0 0 ${WIDTH} ${drawing.height}`"
      role="img"
      :aria-label="`Ways of sound: ${said || 'none'}`"
    >
      <g v-for="room in drawing.rooms" :key="room.name">
        <rect class="room" x="3" :y="room.y" :width="ROOM_WIDTH" :height="room.height" rx="10" />
        <text class="room-name" x="14" :y="room.y + 17">{{ room.name }}</text>
      </g>
      <path
        v-for="(way, at) in drawing.ways"
        :key="at"
        :d="way.path"
        :class="{ air: way.air, wrong: way.wrong, measured: way.measured }"
      />
      <g v-for="one in drawing.nodes" :key="one.id" :class="{ still: !one.live }">
        <template v-if="one.kind === 'person'">
          <circle class="filled" :cx="one.x" :cy="one.y - 4" r="4" />
          <path class="filled" :d="`M ${one.x - 7} ${one.y + 8} a 7 7 0 0 1 14 0 z`" />
        </template>
        <circle
          v-else-if="one.kind === 'microphone'"
          :class="one.live ? 'open' : 'closed'"
          :cx="one.x"
          :cy="one.y"
          r="7"
        />
        <path
          v-else-if="one.kind === 'loudspeaker'"
          :class="one.live ? 'filled' : 'closed'"
          :d="`M ${one.x - 7} ${one.y - 3} h 5 l 6 -5 v 16 l -6 -5 h -5 z`"
        />
        <path
          v-else-if="one.kind === 'clip'"
          class="filled"
          :d="`M ${one.x - 6} ${one.y - 7} l 13 7 l -13 7 z`"
        />
        <template v-else-if="one.kind === 'join'">
          <rect class="join" :x="one.x - 26" :y="one.y - 15" width="52" height="30" rx="15" />
          <rect class="edge" :x="one.x + 30" :y="one.y - 9" width="4" height="18" rx="2" />
        </template>
        <g v-else>
          <circle
            v-for="dx in [-12, 0, 12]"
            :key="dx"
            class="filled"
            :cx="one.x + dx"
            :cy="one.y - 5"
            r="4"
          />
          <path
            v-for="dx in [-12, 0, 12]"
            :key="`b${dx}`"
            class="filled"
            :d="`M ${one.x + dx - 5} ${one.y + 7} a 5 6 0 0 1 10 0 z`"
          />
        </g>
        <text v-if="one.kind === 'join'" class="under" :x="one.x" :y="one.y + 29">
          {{ short(shown(one), 17) }}
        </text>
        <text v-else-if="one.kind === 'learners'" class="under" :x="one.x" :y="one.y + 24">Learners</text>
        <text v-else :x="one.x + 15" :y="one.y + 4.5">{{ short(one.name, 32) }}</text>
      </g>
    </svg>
    <p class="soft legend">
      Filled: open or on. Dotted: through the air. <span class="bad">Red-brown: part of what is wrong.</span>
    </p>
  </section>
</template>

<style scoped>
section {
  padding: 12px 16px 10px;
  display: grid;
  gap: 6px;
}
svg {
  width: 100%;
  height: auto;
}
text {
  font: 13px var(--type);
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 3;
}
.room {
  fill: var(--paper);
  stroke: var(--line);
}
.room-name {
  font-weight: 650;
  fill: var(--soft);
  stroke: none;
}
.under {
  text-anchor: middle;
  font-size: 12px;
}
path {
  fill: none;
  stroke: var(--lapis);
  stroke-width: 1.6;
}
path.air {
  stroke-dasharray: 2 4;
  stroke: var(--stone);
}
path.measured {
  stroke-width: 2.4;
}
path.wrong {
  stroke: var(--carnelian);
  stroke-width: 2.6;
}
.filled {
  fill: var(--ink);
  stroke: none;
}
.open {
  fill: var(--lapis);
}
.closed {
  fill: var(--sheet);
  stroke: var(--soft);
  stroke-width: 2;
}
.join {
  fill: var(--sheet);
  stroke: var(--lapis);
  stroke-width: 2;
}
.edge {
  fill: var(--lapis);
}
.still text {
  fill: var(--soft);
}
.legend {
  font-size: 12.5px;
}
.bad {
  color: var(--carnelian);
}
</style>
