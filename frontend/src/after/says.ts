/** Lengths and sizes in words. */
export function lasts(seconds: number): string {
  const minutes = Math.floor(seconds / 60)
  if (minutes < 1) return `${Math.max(0, Math.round(seconds))} s`
  if (minutes < 100) return `${minutes} min`
  const hours = minutes / 60
  return hours < 100 ? `${Math.round(hours)} h` : 'days'
}

export function megabytes(bytes: number): string {
  if (bytes < 1e6) return `${Math.max(bytes ? 1 : 0, Math.round(bytes / 1e3))} kB`
  if (bytes < 1e9) return `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
  return `${(bytes / 1e9).toFixed(1)} GB`
}

export function clock(seconds: number): string {
  const whole = Math.floor(seconds)
  const minutes = Math.floor(whole / 60)
  return `${minutes}:${String(whole % 60).padStart(2, '0')}`
}

export const day = (iso: string) =>
  new Date(`${iso}T12:00:00`).toLocaleDateString('en-GB', {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
  })
