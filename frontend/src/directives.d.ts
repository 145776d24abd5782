import type { vRadios, vRoving } from './shared/roving'

declare module 'vue' {
  interface GlobalDirectives {
    vRoving: typeof vRoving
    vRadios: typeof vRadios
  }
}
