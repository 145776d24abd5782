<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import type { Chain, SquareUpView } from '@/api/client'
import ChoiceList from '@/shared/ChoiceList.vue'
import LinkCard from './LinkCard.vue'
import NumberSlider from './NumberSlider.vue'
import { frameSays, mirrorSays, signed, squareSays, turnSays } from './says'

const props = defineProps<{ view: SquareUpView }>()
const emit = defineEmits<{
  part: [name: keyof Chain, values: object, settled: boolean]
  keystone: [vertical: number, horizontal: number, settled: boolean]
  paper: [name: string | null, lying: boolean]
}>()

const chain = computed(() => props.view.chain)
const vertical = computed(() => Math.round(props.view.readings?.keystone_vertical ?? 0))
const horizontal = computed(() => Math.round(props.view.readings?.keystone_horizontal ?? 0))
const paper = computed(() =>
  chain.value.square.paper
    ? `${chain.value.square.paper}${chain.value.square.lying ? ' lying' : ''}`
    : 'free',
)
const PAPERS = [
  { value: 'free', label: 'Free proportions' },
  ...['A4', 'A3', 'A5', 'A6', 'Letter', 'Legal'].flatMap((name) => [
    { value: name, label: `${name} upright` },
    { value: `${name} lying`, label: `${name} lying` },
  ]),
]

function set(name: keyof Chain, values: object, settled = true) {
  emit('part', name, values, settled)
}
function quarter(by: number) {
  set('turn', { quarters: (chain.value.turn.quarters + by + 4) % 4 })
}
function namePaper(value: string) {
  const [name, lying] = value.split(' ')
  emit('paper', name === 'free' ? null : (name ?? null), lying === 'lying')
}
</script>

<template>
  <div>
    <LinkCard
      name="Square"
      :on="chain.square.on"
      :says="squareSays(view)"
      @switch="(on) => set('square', { on })"
    >
      <NumberSlider
        label="Vertical"
        :value="vertical"
        :min="-60"
        :max="60"
        :shown="signed(vertical)"
        @change="(value, settled) => emit('keystone', value, horizontal, settled)"
      />
      <NumberSlider
        label="Horizontal"
        :value="horizontal"
        :min="-60"
        :max="60"
        :shown="signed(horizontal)"
        @change="(value, settled) => emit('keystone', vertical, value, settled)"
      />
      <ChoiceList small label="Paper" :value="paper" :options="PAPERS" @change="namePaper" />
    </LinkCard>
    <LinkCard name="Turn" :on="chain.turn.on" :says="turnSays(chain)" @switch="(on) => set('turn', { on })">
      <div class="pair">
        <Button size="small" @click="quarter(-1)">Quarter left</Button>
        <Button size="small" @click="quarter(1)">Quarter right</Button>
      </div>
      <NumberSlider
        label="Fine"
        :value="chain.turn.fine_deg"
        :min="-20"
        :max="20"
        :step="0.1"
        :shown="`${signed(chain.turn.fine_deg, 1)}°`"
        @change="(value, settled) => set('turn', { fine_deg: value }, settled)"
      />
    </LinkCard>
    <LinkCard
      name="Mirror"
      :on="chain.mirror.on"
      :says="mirrorSays(chain)"
      @switch="(on) => set('mirror', { on })"
    >
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
    <LinkCard
      name="Frame"
      last
      :on="chain.frame.on"
      :says="frameSays(chain)"
      @switch="(on) => set('frame', { on })"
    >
      <NumberSlider
        label="Zoom"
        :value="Math.round(chain.frame.zoom * 100)"
        :min="100"
        :max="800"
        :step="2"
        :shown="`${Math.round(chain.frame.zoom * 100)} %`"
        @change="(value, settled) => set('frame', { zoom: value / 100 }, settled)"
      />
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
</style>
