/** Chromium's way from frames to a track in a page (MediaStreamTrackGenerator); not in TypeScript's own list. */
interface MediaStreamTrackGenerator<T> extends MediaStreamTrack {
  readonly writable: WritableStream<T>
}
declare const MediaStreamTrackGenerator: {
  prototype: MediaStreamTrackGenerator<unknown>
  new <T>(init: { kind: 'video' | 'audio' }): MediaStreamTrackGenerator<T>
}
interface Document {
  readonly featurePolicy?: { allowsFeature(name: string): boolean }
}
