/** What a device serves as: the teacher's statement. */
export type Serves = 'page' | 'face' | 'nothing'

export const SERVES: { value: Serves; label: string }[] = [
  { value: 'page', label: 'Page' },
  { value: 'face', label: 'Face' },
  { value: 'nothing', label: 'Neither' },
]
