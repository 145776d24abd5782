/** What sets the smallest print, and what helps. */
export const LIMITS: Record<string, string> = {
  camera: 'The camera is too far away. Move it closer, or choose a larger size in Kit.',
  outgoing: 'Zoom in on the page.',
  call: 'The call shrinks the picture. Zoom in on the page.',
  tile: 'Their tile is small. Ask them to pin you.',
  eye: 'It is small on their screen. Zoom in on the page.',
}
