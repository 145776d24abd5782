import { type Capability, idFor, Overconstrained, resolveVideo, strings, type Wanted } from './constraints'
import { Line } from './line'
import { AudioSource, RATE, VideoSource } from './sources'
import { type FromBridge, HELLO, type Permission, type ToBridge } from './shared'

/** In the page's own world: a camera and a microphone more, that behave as all others do. */
const LABEL = 'Cartouche'
const native = {
  enumerateDevices: MediaDevices.prototype.enumerateDevices,
  getUserMedia: MediaDevices.prototype.getUserMedia,
  query: Permissions.prototype.query,
  label: Object.getOwnPropertyDescriptor(MediaStreamTrack.prototype, 'label')!,
  getSettings: MediaStreamTrack.prototype.getSettings,
  getCapabilities: MediaStreamTrack.prototype.getCapabilities,
  getConstraints: MediaStreamTrack.prototype.getConstraints,
  applyConstraints: MediaStreamTrack.prototype.applyConstraints,
  stop: MediaStreamTrack.prototype.stop,
  clone: MediaStreamTrack.prototype.clone,
}
const has: Capability = {
  deviceId: idFor(self.origin, 'camera'),
  groupId: idFor(self.origin, 'group'),
  maxWidth: 1920,
  maxHeight: 1080,
  maxFps: 30,
}
const FIRST = { width: { ideal: 1280 }, height: { ideal: 720 } } // a page that asks for no size gets a good one
const microphone = {
  deviceId: idFor(self.origin, 'microphone'),
  groupId: has.groupId,
}
const ours = new WeakMap<MediaStreamTrack, VideoSource | AudioSource>()
const statuses = new Set<PermissionStatus>()
let permission: Permission = 'unasked'
let bridge: MessagePort | null = null
let asking: ((permission: Permission) => void)[] = []
const unsent: ToBridge[] = []
const line = new Line(
  (number) => send({ do: 'line', number }),
  () => send({ do: 'shut' }),
)

function send(message: ToBridge) {
  if (bridge) bridge.postMessage(message)
  else unsent.push(message)
}

window.addEventListener('message', function take(event: MessageEvent) {
  if (event.source !== window || event.data !== HELLO || !event.ports[0]) return
  window.removeEventListener('message', take)
  event.stopImmediatePropagation()
  bridge = event.ports[0]
  bridge.onmessage = ({ data, ports }: MessageEvent<FromBridge>) => {
    if (data.tell === 'line' && ports[0]) line.take(ports[0], data.number)
    else if (data.tell === 'permission') permit(data.permission)
  }
  for (const message of unsent.splice(0)) bridge.postMessage(message)
})
window.postMessage(`${HELLO}?`, '*')

function permit(told: Permission) {
  const changed = told !== permission
  permission = told
  if (told !== 'unasked') for (const answer of asking.splice(0)) answer(told)
  if (!changed) return
  for (const status of statuses) status.dispatchEvent(new Event('change'))
  navigator.mediaDevices.dispatchEvent(new Event('devicechange'))
}

function ask(): Promise<Permission> {
  if (permission !== 'unasked') return Promise.resolve(permission)
  send({ do: 'ask' })
  return new Promise((answer) => asking.push(answer))
}

const allows = (feature: string) => document.featurePolicy?.allowsFeature(feature) ?? true

// --- what is listed

function device(kind: 'videoinput' | 'audioinput', named: boolean): MediaDeviceInfo {
  const { deviceId, groupId } = kind === 'videoinput' ? has : microphone
  const values = {
    deviceId: named ? deviceId : '',
    groupId: named ? groupId : '',
    kind,
    label: named ? LABEL : '',
  }
  const proto = typeof InputDeviceInfo === 'undefined' ? MediaDeviceInfo.prototype : InputDeviceInfo.prototype
  return Object.create(proto, {
    ...Object.fromEntries(Object.entries(values).map(([name, value]) => [name, { value, enumerable: true }])),
    toJSON: { value: () => values },
    getCapabilities: {
      value: () => (kind === 'videoinput' ? videoCapabilities() : audioCapabilities()),
    },
  }) as MediaDeviceInfo
}

async function enumerateDevices(this: MediaDevices): Promise<MediaDeviceInfo[]> {
  const found = await native.enumerateDevices.call(this)
  const more = (kind: 'videoinput' | 'audioinput', feature: string) => {
    const others = found.filter((one) => one.kind === kind)
    const named = permission === 'allowed' || others.some((one) => one.label)
    const hidden = !allows(feature) || (!named && others.length > 0) // before permission a page learns only that there is one
    return hidden ? [] : [device(kind, named)]
  }
  const at = found.findIndex((one) => one.kind === 'audiooutput')
  const inputs = at < 0 ? found : found.slice(0, at)
  return [
    ...inputs,
    ...more('audioinput', 'microphone'),
    ...more('videoinput', 'camera'),
    ...(at < 0 ? [] : found.slice(at)),
  ]
}

const videoCapabilities = () => ({
  aspectRatio: { min: 1 / has.maxHeight, max: has.maxWidth },
  deviceId: has.deviceId,
  facingMode: [],
  frameRate: { min: 1, max: has.maxFps },
  groupId: has.groupId,
  height: { min: 1, max: has.maxHeight },
  resizeMode: ['none', 'crop-and-scale'],
  width: { min: 1, max: has.maxWidth },
})
const audioCapabilities = () => ({
  autoGainControl: [false],
  channelCount: { min: 1, max: 1 },
  deviceId: microphone.deviceId,
  echoCancellation: [false],
  groupId: microphone.groupId,
  noiseSuppression: [false],
  sampleRate: { min: RATE, max: RATE },
  sampleSize: { min: 16, max: 16 },
})

// --- what is taken

/** Ours is meant by its id; a picture of no device in particular is ours too, for the site was chosen for it; sound is not. */
function isMeant(wanted: Wanted, id: string, groupId: string, unnamed: boolean): boolean {
  if (!wanted) return false
  const set = wanted === true ? {} : wanted
  const device = strings(set.deviceId)
  const group = strings(set.groupId)
  if (device.exact.length) return device.exact.includes(id)
  if (group.exact.length) return group.exact.includes(groupId)
  if (device.ideal.length) return device.ideal.includes(id)
  return unnamed && !strings(set.facingMode).exact.length
}

async function getUserMedia(this: MediaDevices, constraints?: MediaStreamConstraints): Promise<MediaStream> {
  const { video, audio } = constraints ?? {}
  const picture = isMeant(video, has.deviceId, has.groupId, true)
  const sound = isMeant(audio, microphone.deviceId, microphone.groupId, false)
  if (!picture && !sound) return native.getUserMedia.call(this, constraints)
  if ((picture && !allows('camera')) || (sound && !allows('microphone')))
    throw new DOMException('Permission denied', 'NotAllowedError')
  const wanted = { ...FIRST, ...(typeof video === 'object' ? video : {}) }
  const settings = picture ? resolveVideo(wanted, has) : null
  if (settings instanceof Overconstrained) throw new OverconstrainedError(settings.constraint)
  if ((await ask()) !== 'allowed') throw new DOMException('Permission denied', 'NotAllowedError')
  const rest = { video: picture ? false : video, audio: sound ? false : audio }
  const others = rest.video || rest.audio ? (await native.getUserMedia.call(this, rest)).getTracks() : []
  const tracks = [...others]
  if (sound) tracks.unshift(audioTrack(typeof audio === 'object' ? audio : {}))
  if (settings) tracks.push(videoTrack(settings, typeof video === 'object' ? video : {}))
  return new MediaStream(tracks)
}

function videoTrack(
  settings: ConstructorParameters<typeof VideoSource>[2],
  constraints: MediaTrackConstraints,
): MediaStreamTrack {
  const source = new VideoSource(line, has, settings, constraints)
  ours.set(source.track, source)
  return source.track
}

function audioTrack(constraints: MediaTrackConstraints): MediaStreamTrack {
  const source = new AudioSource(line, constraints)
  ours.set(source.track, source)
  return source.track
}

// --- tracks that are ours

const patched = {
  getSettings(this: MediaStreamTrack): MediaTrackSettings {
    const source = ours.get(this)
    if (source instanceof VideoSource) {
      const { width, height, frameRate } = source.settings
      return {
        aspectRatio: width / height,
        deviceId: has.deviceId,
        frameRate,
        groupId: has.groupId,
        height,
        width,
      }
    }
    const processing = {
      autoGainControl: false,
      echoCancellation: false,
      noiseSuppression: false,
    }
    return source
      ? {
          ...processing,
          ...microphone,
          channelCount: 1,
          sampleRate: RATE,
          sampleSize: 16,
        }
      : native.getSettings.call(this)
  },
  getCapabilities(this: MediaStreamTrack): MediaTrackCapabilities {
    const source = ours.get(this)
    if (!source) return native.getCapabilities.call(this)
    return (
      source instanceof VideoSource ? videoCapabilities() : audioCapabilities()
    ) as MediaTrackCapabilities
  },
  getConstraints(this: MediaStreamTrack): MediaTrackConstraints {
    return structuredClone(ours.get(this)?.constraints) ?? native.getConstraints.call(this)
  },
  async applyConstraints(this: MediaStreamTrack, constraints: MediaTrackConstraints = {}): Promise<void> {
    const source = ours.get(this)
    if (!source) return native.applyConstraints.call(this, constraints)
    if (source instanceof VideoSource) {
      const settings = resolveVideo({ ...FIRST, ...constraints }, has)
      if (settings instanceof Overconstrained) throw new OverconstrainedError(settings.constraint)
      source.resize(settings)
    }
    source.constraints = constraints
  },
  stop(this: MediaStreamTrack): void {
    ours.get(this)?.stop()
    native.stop.call(this)
  },
  clone(this: MediaStreamTrack): MediaStreamTrack {
    const source = ours.get(this)
    if (!source || this.readyState === 'ended') return native.clone.call(this)
    const copy =
      source instanceof VideoSource
        ? videoTrack({ ...source.settings }, source.constraints)
        : audioTrack(source.constraints)
    copy.enabled = this.enabled
    copy.contentHint = this.contentHint
    return copy
  },
}

async function query(this: Permissions, descriptor: PermissionDescriptor): Promise<PermissionStatus> {
  const status = await native.query.call(this, descriptor)
  const name = descriptor.name as string
  if (name !== 'camera' && name !== 'microphone') return status
  const itself = Object.getOwnPropertyDescriptor(PermissionStatus.prototype, 'state')!.get!
  Object.defineProperty(status, 'state', {
    get: () =>
      permission === 'allowed'
        ? 'granted'
        : permission === 'unasked' && itself.call(status) === 'denied'
          ? 'prompt'
          : itself.call(status),
  })
  statuses.add(status)
  return status
}

function install() {
  const put = (target: object, methods: object) => {
    for (const [name, value] of Object.entries(methods))
      Object.defineProperty(target, name, {
        value,
        writable: true,
        configurable: true,
        enumerable: true,
      })
  }
  put(MediaDevices.prototype, { enumerateDevices, getUserMedia })
  put(MediaStreamTrack.prototype, patched)
  put(Permissions.prototype, { query })
  Object.defineProperty(MediaStreamTrack.prototype, 'label', {
    ...native.label,
    get(this: MediaStreamTrack) {
      return ours.has(this) ? LABEL : (native.label.get!.call(this) as string)
    },
  })
}

// without a secure context a page has no cameras at all; twice in one page would list two
if (
  typeof MediaDevices !== 'undefined' &&
  typeof MediaStreamTrackGenerator !== 'undefined' &&
  MediaDevices.prototype.getUserMedia.name &&
  !Object.hasOwn(window, '__cartouche')
) {
  Object.defineProperty(window, '__cartouche', { value: true })
  install()
}
