import type { GuestState } from './client'
import type { Phase } from './session'

export interface Says {
  kind: 'holds' | 'look' | 'wrong'
  words: string
  sentence: string | null
  press: string | null
}

const LOOK: Record<string, string> = {
  black: 'The picture is black. Point the lens at the page and give it light.',
  blurred: 'Out of focus. Press Refocus, or move the phone back a little.',
  stuck: 'The picture is frozen. Press Restart the camera.',
}

/** The one big word on how this device's picture is doing, and what to do. */
export function guestSays(phase: Phase, answers: boolean, state: GuestState | null): Says {
  if (phase === 'denied') {
    return {
      kind: 'wrong',
      words: 'This page may not use the camera',
      sentence: 'Allow the camera for this page in the browser’s settings, then try again.',
      press: 'Try again',
    }
  }
  if (phase === 'busy' || phase === 'none') {
    return {
      kind: 'wrong',
      words: phase === 'busy' ? 'Another app is using the camera' : 'No camera was found',
      sentence:
        phase === 'busy'
          ? 'Close the other app, then try again.'
          : 'This browser finds no camera on this device.',
      press: 'Try again',
    }
  }
  if (phase === 'unable') {
    return {
      kind: 'wrong',
      words: 'This browser cannot send its picture',
      sentence: 'Open the same address in another browser on this device, or bring in another device.',
      press: 'Try again',
    }
  }
  if (phase === 'asking') {
    return {
      kind: 'look',
      words: 'Waiting for the camera',
      sentence: 'If the browser asks, allow it.',
      press: null,
    }
  }
  if (!answers) {
    return {
      kind: 'look',
      words: 'Looking for the teacher’s computer',
      sentence: 'It comes back by itself. Is this device on the same Wi-Fi?',
      press: null,
    }
  }
  const what =
    state?.serves === 'face' ? 'Your face' : state?.serves === 'page' ? 'Your page' : 'Your picture'
  const wrong = LOOK[state?.state ?? '']
  if (wrong)
    return {
      kind: 'look',
      words: `${what} arrives, but not well`,
      sentence: wrong,
      press: state?.state === 'stuck' ? 'Restart the camera' : null,
    }
  if (state?.arrives) {
    return { kind: 'holds', words: `${what} is at the teacher’s computer`, sentence: null, press: null }
  }
  if (state && !state.wanted) {
    return {
      kind: 'holds',
      words: `${what} is ready`,
      sentence: 'It is sent as soon as somebody looks at it on the teacher’s computer.',
      press: null,
    }
  }
  return { kind: 'look', words: 'On its way', sentence: null, press: null }
}
