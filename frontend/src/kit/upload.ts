import type { Device } from '@/api/client'
import { at } from '@/shared/at'

export type FileKind = 'pages' | 'slides' | 'clip'

export const ACCEPTED: Record<FileKind, string> = {
  pages: '.pdf,.png,.jpg,.jpeg,application/pdf,image/png,image/jpeg',
  slides: '.pdf,application/pdf',
  clip: '.mp4,.webm,video/mp4,video/webm',
}

/** Send one file as it is, with its progress (0-1); the answer is the device that shows it. */
export function upload(
  file: File,
  asked: { kind: FileKind; device_id?: string; serves?: 'page' | 'face' },
  onProgress: (share: number) => void,
): Promise<Device> {
  const query = new URLSearchParams({ name: fileName(file.name), ...asked })
  return new Promise((done, fail) => {
    const request = new XMLHttpRequest() // fetch tells no progress on the way up
    request.open('POST', at(`/api/kit/files?${query}`))
    request.upload.onprogress = (event) => event.lengthComputable && onProgress(event.loaded / event.total)
    request.onload = () => {
      const said = parsed(request.responseText)
      if (request.status === 201) done(said as Device)
      else fail(new Error((said as { detail?: string }).detail ?? 'The file could not be taken.'))
    }
    request.onerror = () =>
      fail(new Error('Cartouche does not answer. Is it still running? Then add the file again.'))
    request.send(file)
  })
}

/** A name that the server takes: no control signs, at most 60, its ending kept. */
export function fileName(name: string): string {
  const clean = name.replace(/[\u0000-\u001f\u007f]/g, '').trim() || 'file'
  if (clean.length <= 60) return clean
  const dot = clean.lastIndexOf('.')
  const ending = dot > 0 && clean.length - dot <= 6 ? clean.slice(dot) : ''
  return clean.slice(0, 60 - ending.length) + ending
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return {}
  }
}
