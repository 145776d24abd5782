/** Minutes and seconds, hours where there are any; counting down a begun second counts as whole. */
export function reads(seconds: number, way: 'down' | 'up'): string {
  const whole = way === 'down' ? Math.ceil(Math.max(0, seconds) - 1e-6) : Math.floor(seconds + 1e-6)
  const two = (value: number) => String(value).padStart(2, '0')
  const hours = Math.floor(whole / 3600)
  const minutes = Math.floor(whole / 60) % 60
  return hours ? `${hours}:${two(minutes)}:${two(whole % 60)}` : `${minutes}:${two(whole % 60)}`
}
