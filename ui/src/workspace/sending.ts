import { bytes } from '@/shared/format'

/** Bytes of a file that may be sent from a page. */
const MOST = 1_400_000

/** A file's content in base64 (RFC 4648), as a request carries it; refuses a file that is too large by its name. */
export async function encoded(file: File): Promise<string> {
  if (file.size > MOST)
    throw new Error(`${file.name} has ${bytes(file.size)}; at most ${bytes(MOST)} can be sent here.`)
  const data = new Uint8Array(await file.arrayBuffer())
  let binary = ''
  for (let at = 0; at < data.length; at += 32_768) binary += String.fromCharCode(...data.subarray(at, at + 32_768))
  return btoa(binary)
}
