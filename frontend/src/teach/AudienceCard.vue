<script setup lang="ts">
import { RouterLink } from 'vue-router'
import type { AudienceView } from '@/api/client'
import SurfaceView from '@/shared/SurfaceView.vue'
import VerdictChip from '@/shared/VerdictChip.vue'
import { LIMITS } from './limits'

defineProps<{ audience: AudienceView; running: boolean; goingOut: boolean }>()
defineEmits<{ closer: [] }>()
const previewWidth = Math.round(144 * window.devicePixelRatio)
</script>

<template>
  <article class="card eye" :aria-label="audience.name">
    <button
      class="screen-of"
      :disabled="!running"
      :aria-label="running ? `Look closer: ${audience.name}` : undefined"
      @click="$emit('closer')"
    >
      <SurfaceView
        v-if="running"
        :surface="`audience:${audience.id}`"
        :width="previewWidth"
        :fps="8"
        :label="`What ${audience.name} gets`"
        waiting="…"
      />
      <span v-else class="soft">{{
        goingOut ? 'Start the practice call for an example' : 'Start the practice call to see it'
      }}</span>
    </button>
    <div class="says">
      <h2>{{ audience.name }}</h2>
      <template v-if="audience.is_teacher">
        <VerdictChip kind="unknown">Mirrored for you</VerdictChip>
        <p class="soft">Calls show you yourself mirrored. Learners do not get this one.</p>
      </template>
      <template v-else>
        <VerdictChip v-if="audience.path" :kind="audience.path.reads_true ? 'holds' : 'wrong'">{{
          audience.path.reads_true ? 'Reads true' : 'Reads reversed'
        }}</VerdictChip>
        <VerdictChip v-else kind="unknown">No page on this plate</VerdictChip>
        <VerdictChip
          v-if="audience.smallest_print_pt !== null"
          :kind="(audience.reads ?? audience.holds_usual_print) ? 'holds' : 'look'"
          >Reads {{ audience.smallest_print_pt }} pt and up</VerdictChip
        >
        <p v-if="audience.reads === false" class="soft">
          Needs {{ audience.too_small_by?.toFixed(1) }}× larger print.
          <RouterLink to="/square-up">See what helps</RouterLink>
        </p>
        <p v-else-if="audience.limit && !audience.holds_usual_print" class="soft">
          {{ LIMITS[audience.limit] }} <RouterLink to="/square-up">Open Square up</RouterLink>
        </p>
      </template>
    </div>
  </article>
</template>

<style scoped>
.eye {
  padding: 10px 12px;
  display: grid;
  grid-template-columns: 144px 1fr;
  gap: 12px;
}
.screen-of {
  appearance: none;
  padding: 0;
  border: 3px solid #3a3f4b;
  border-radius: 6px;
  overflow: hidden;
  width: 144px;
  height: 84px;
  background: #e9e2d3;
  cursor: zoom-in;
  font: inherit;
  font-size: 13px;
}
.screen-of > .soft {
  display: block;
  padding: 0 8px;
}
.screen-of:disabled {
  cursor: default;
}
.says {
  display: flex;
  flex-direction: column;
  gap: 4px;
  min-width: 0;
}
.says p {
  font-size: 13px;
  line-height: 1.3;
}
</style>
