import { watch, type WatchSource } from 'vue'

/**
 * Looks again whenever the signature changes; a look that failed is tried again with the next news, since its signature is
 * remembered only when it has been answered. A late answer of an older look tells nothing once a newer one has.
 *
 * signature: what decides the answer, null for nothing to look at.  look: may give undefined for no answer.  take: the answer.
 */
export function useFetched<T>(
  signature: () => string | null,
  news: WatchSource<unknown>,
  look: () => Promise<T | undefined>,
  take: (answer: T) => void,
) {
  let asked = 0
  let answered = 0
  let known: string | null = null
  let underWay: string | null = null

  async function again() {
    const mine = ++asked
    const wanted = signature()
    underWay = wanted
    const answer = await look().catch(() => undefined)
    if (underWay === wanted) underWay = null
    if (answer === undefined || mine < answered) return
    answered = mine
    known = wanted
    take(answer)
  }
  watch(
    [signature, news],
    ([wanted]) => {
      if (wanted !== null && wanted !== known && wanted !== underWay) void again()
    },
    { immediate: true },
  )
  return {
    again,
    /** What is under way now was asked before something changed: its answer is passed over. */
    outdate: () => (answered = asked + 1),
  }
}

/** One text for the versions of these topics; a name that ends in ':' stands for all that begin so. */
export function versionsOf(versions: Record<string, number> | undefined, ...topics: string[]): string | null {
  if (!versions) return null
  return Object.entries(versions)
    .filter(([name]) =>
      topics.some((topic) => (topic.endsWith(':') ? name.startsWith(topic) : name === topic)),
    )
    .map(([name, version]) => `${name}=${version}`)
    .sort()
    .join()
}
