/** The same in another order: the one that it is a place earlier or later. Null where there is no such place. */
export function reordered<T>(all: T[], is: (one: T) => boolean, by: 1 | -1): T[] | null {
  const at = all.findIndex(is)
  if (at < 0 || at + by < 0 || at + by >= all.length) return null
  const next = [...all]
  next.splice(at + by, 0, ...next.splice(at, 1))
  return next
}
