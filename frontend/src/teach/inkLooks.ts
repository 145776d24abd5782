/** What a hand may draw with, on this computer's screens and on a tablet. */
export type InkTool = 'pen' | 'marker' | 'line' | 'arrow' | 'pointer' | 'eraser' | 'rubber'
export const TOOLS: { tool: InkTool; word: string }[] = [
  { tool: 'pen', word: 'Pen' },
  { tool: 'marker', word: 'Highlighter' },
  { tool: 'line', word: 'Line' },
  { tool: 'arrow', word: 'Arrow' },
  { tool: 'pointer', word: 'Pointer' },
  { tool: 'eraser', word: 'Erase strokes' },
  { tool: 'rubber', word: 'Rub out' },
]
export const COLOURS = [
  { colour: '#23459B', word: 'Lapis' },
  { colour: '#A93226', word: 'Carnelian' },
  { colour: '#1B7353', word: 'Malachite' },
  { colour: '#1D2433', word: 'Ink' },
  { colour: '#F2C230', word: 'Yellow' },
]
export const WIDTHS = [0.5, 1, 2.5]
const MARKER_WIDER = 5
export const looksOf = (tool: InkTool, colour: string, width: number) => ({
  tool,
  colour,
  width: width * (tool === 'marker' ? MARKER_WIDER : 1),
})
