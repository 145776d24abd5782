/** What sets the smallest print, and what helps. */
export const LIMITS: Record<string, string> = {
  camera: 'The camera is too far away or too coarse.',
  outgoing: 'Show less of the page: go closer.',
  call: 'The call transcodes the picture: go closer.',
  tile: 'Their tile is small: ask them to pin you.',
  eye: 'It is small on their screen: go closer.',
}
