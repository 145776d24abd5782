<script setup lang="ts">
import { Button, Segmented, Switch } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Chain, SquareUpView } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import LinkCard from './LinkCard.vue'
import NumberSlider from '@/shared/NumberSlider.vue'
import { useRules } from '@/shared/rules'
import type { Framing } from './chain'
import {
  colourSays,
  frameSays,
  lightSays,
  mirrorSays,
  signed,
  squareSays,
  turnSays,
  unbendSays,
} from './says'

const props = defineProps<{ view: SquareUpView }>()
const emit = defineEmits<{
  part: [name: keyof Chain, values: object, settled: boolean]
  keystone: [vertical: number, horizontal: number, settled: boolean]
  paper: [name: string | null, lying: boolean]
  framing: [name: Framing]
  unbend: []
  turn: [quarters: number]
}>()

const stored = useRules()
const rules = computed(() => stored.rules)
const percent = (share: number | undefined) => Math.round(100 * (share ?? 0))
const opened = ref<keyof Chain | null>('square')
const chain = computed(() => props.view.chain)
const vertical = computed(() => Math.round(props.view.readings?.keystone_vertical ?? 0))
const horizontal = computed(() => Math.round(props.view.readings?.keystone_horizontal ?? 0))
const paper = computed(() =>
  chain.value.square.paper
    ? `${chain.value.square.paper}${chain.value.square.lying ? ' lying' : ''}`
    : 'free',
)
const papers = computed(() => [
  { value: 'free', label: 'Any shape' },
  ...(rules.value?.papers ?? []).flatMap((name) => [
    { value: name as string, label: `${name} portrait` },
    { value: `${name} lying`, label: `${name} landscape` },
  ]),
])
const FRAMINGS: [Framing, string][] = [
  ['whole', 'Whole'],
  ['upper', 'Upper half'],
  ['lower', 'Lower half'],
  ['band', 'Band'],
  ['previous', 'Up'],
  ['next', 'Down'],
]

function set(name: keyof Chain, values: object, settled = true) {
  emit('part', name, values, settled)
}
function toggle(name: keyof Chain) {
  opened.value = opened.value === name ? null : name
}
function quarter(by: number) {
  emit('turn', (by + 4) % 4)
}
function namePaper(value: string) {
  const [name, lying] = value.split(' ')
  emit('paper', name === 'free' ? null : (name ?? null), lying === 'lying')
}
const bind = (name: keyof Chain) => ({
  on: chain.value[name].on,
  open: opened.value === name,
  onOpen: () => toggle(name),
  onSwitch: (on: boolean) => set(name, { on }),
})
</script>

<template>
  <div v-if="rules" v-roving role="group" aria-label="Corrections">
    <LinkCard name="Unbend" :says="unbendSays(view, rules?.straight_below ?? 0)" v-bind="bind('unbend')">
      <NumberSlider
        label="Lens curve"
        :value="chain.unbend.distortion * 100"
        :min="-percent(rules?.distortion_max)"
        :max="percent(rules?.distortion_max)"
        :step="0.2"
        :shown="`${signed(view.distortion_percent, 1)}%`"
        @change="
          (value, settled) => set('unbend', { distortion: value / 100, set: 'hand', on: true }, settled)
        "
      />
      <Button size="small" @click="emit('unbend')">Measure it from the page’s edges</Button>
    </LinkCard>
    <LinkCard name="Square" :says="squareSays(view)" v-bind="bind('square')">
      <label class="pick"
        ><span>Follow the page</span
        ><Switch
          size="small"
          :checked="chain.square.follow"
          aria-label="Follow the page"
          @change="(value) => set('square', { follow: value === true })"
      /></label>
      <NumberSlider
        label="Vertical slant"
        :value="vertical"
        :min="-(rules?.keystone_max ?? 0)"
        :max="rules?.keystone_max ?? 0"
        :shown="signed(vertical)"
        @change="(value, settled) => emit('keystone', value, horizontal, settled)"
      />
      <NumberSlider
        label="Horizontal slant"
        :value="horizontal"
        :min="-(rules?.keystone_max ?? 0)"
        :max="rules?.keystone_max ?? 0"
        :shown="signed(horizontal)"
        @change="(value, settled) => emit('keystone', vertical, value, settled)"
      />
      <ChoiceList small label="Paper" :value="paper" :options="papers" @change="namePaper" />
    </LinkCard>
    <LinkCard name="Turn" :says="turnSays(chain)" v-bind="bind('turn')">
      <div class="pair">
        <Button size="small" @click="quarter(-1)">Quarter left</Button>
        <Button size="small" @click="quarter(1)">Quarter right</Button>
      </div>
      <NumberSlider
        label="Fine turn"
        :value="chain.turn.fine_deg"
        :min="-(rules?.fine_max_deg ?? 0)"
        :max="rules?.fine_max_deg ?? 0"
        :step="0.1"
        :shown="`${signed(chain.turn.fine_deg, 1)}°`"
        @change="(value, settled) => set('turn', { fine_deg: value }, settled)"
      />
    </LinkCard>
    <LinkCard name="Mirror" :says="mirrorSays(chain)" v-bind="bind('mirror')">
      <div class="pair">
        <Button
          size="small"
          :type="chain.mirror.left_right ? 'primary' : 'default'"
          :aria-pressed="chain.mirror.left_right"
          @click="set('mirror', { left_right: !chain.mirror.left_right })"
          >Left–right</Button
        >
        <Button
          size="small"
          :type="chain.mirror.top_bottom ? 'primary' : 'default'"
          :aria-pressed="chain.mirror.top_bottom"
          @click="set('mirror', { top_bottom: !chain.mirror.top_bottom })"
          >Top–bottom</Button
        >
      </div>
    </LinkCard>
    <LinkCard name="Part shown" :says="frameSays(view)" v-bind="bind('frame')">
      <NumberSlider
        label="Zoom"
        :value="Math.round(chain.frame.zoom * 100)"
        :min="100"
        :max="percent(rules?.zoom_max)"
        :step="2"
        :shown="`${Math.round(chain.frame.zoom * 100)}%`"
        @change="(value, settled) => set('frame', { zoom: value / 100 }, settled)"
      />
      <div class="pair">
        <Button v-for="[name, label] in FRAMINGS" :key="name" size="small" @click="emit('framing', name)">{{
          label
        }}</Button>
      </div>
    </LinkCard>
    <LinkCard name="Even light" :says="lightSays(view)" v-bind="bind('light')">
      <NumberSlider
        label="Lift"
        :value="Math.round(chain.light.lift * 100)"
        :min="0"
        :max="100"
        :shown="`${Math.round(chain.light.lift * 100)}%`"
        @change="(value, settled) => set('light', { lift: value / 100 }, settled)"
      />
    </LinkCard>
    <LinkCard name="Colour" last :says="colourSays(chain)" v-bind="bind('colour')">
      <Segmented
        v-radios
        size="small"
        block
        :value="chain.colour.set"
        :options="[
          { value: 'auto', label: 'From the paper' },
          { value: 'hand', label: 'By hand' },
        ]"
        @change="(value) => set('colour', { set: value, on: true })"
      />
      <template v-if="chain.colour.set === 'hand'">
        <NumberSlider
          v-for="name in ['warmth', 'tint'] as const"
          :key="name"
          :label="name === 'warmth' ? 'Cooler' : 'Greener'"
          :value="-Math.round(chain.colour[name] * 100)"
          :min="-100"
          :max="100"
          :shown="signed(-Math.round(chain.colour[name] * 100))"
          @change="(value, settled) => set('colour', { [name]: -value / 100 }, settled)"
        />
      </template>
    </LinkCard>
  </div>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.pair .ant-btn {
  justify-content: center;
  min-height: 30px;
}
.pick {
  display: flex;
  justify-content: space-between;
  align-items: center;
  font-size: 13.5px;
}
</style>
