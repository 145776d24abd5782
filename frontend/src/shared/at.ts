/** Where Cartouche stands at its address: '' on this computer, a path of the teacher's own on a school's server. */
export const base = document.querySelector<HTMLMetaElement>('meta[name="base"]')?.content ?? ''

/** One of Cartouche's own addresses, to fetch, link or open. path: from its root, '/api/…'. */
export const at = (path: string): string => base + path
