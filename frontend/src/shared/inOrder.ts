const underWay = new Map<string, Promise<unknown>>()

/**
 * What changes something goes out once the one before it to the same address is answered: sent side by side, the network
 * and the server may turn two round, and what was wanted first would be in force. What only looks is never held up.
 */
export function inOrder(request: Request): Promise<Response> {
  if (request.method === 'GET') return globalThis.fetch(request)
  const { url } = request
  const before = underWay.get(url) ?? Promise.resolve()
  const answered = before.then(() => globalThis.fetch(request))
  const over: Promise<unknown> = answered
    .catch(() => {})
    .then(() => underWay.get(url) === over && underWay.delete(url))
  underWay.set(url, over)
  return answered
}
