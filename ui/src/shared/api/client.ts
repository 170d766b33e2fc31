import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']

/** A refusal of the server, as its problem details tell it. */
export class Problem extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly field?: string,
    readonly status = 0,
  ) {
    super(message)
  }
}

let token = ''

/** The form token that every change must carry; renewed at sign-in. */
export function useToken(fresh: string) {
  token = fresh
}

/** Called when the server no longer knows who is asking. */
let onSignedOut = () => {}
export function whenSignedOut(then: () => void) {
  onSignedOut = then
}

export const api = createClient<paths>({ baseUrl: '/' })
api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-XSRF-TOKEN', token)
    return request
  },
  onResponse({ response, request }) {
    if (response.status === 401 && !request.url.endsWith('/api/session')) onSignedOut()
  },
  onError() {
    return new Problem('unreachable', 'The server did not answer. Check whether your change was saved, then try again.')
  },
})

interface Answer<T> {
  data?: T
  error?: unknown
  response: Response
}

/** The value of an answer; throws the {@link Problem} that came instead. */
export async function take<T>(call: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await call
  // 202: nothing is wrong, but another person must agree before it is done.
  if (error !== undefined || data === undefined || response.status === 202) {
    const problem = (error ?? data ?? {}) as { type?: string; title?: string; field?: string }
    throw new Problem(
      problem.type?.split(':').at(-1) ?? 'fault',
      problem.title ?? `The server answered ${response.status}.`,
      problem.field,
      response.status,
    )
  }
  return data
}

/** Headers that guard a write by the revision that was read. */
export const ifMatch = (revision: number) => ({ headers: { 'If-Match': `"${revision}"` } })

/** A file as the body of a request; the address takes its bytes as they are. */
export const fileBody = (file: File) => ({
  body: file as never,
  bodySerializer: (b: unknown) => b as Blob,
  headers: { 'Content-Type': 'application/octet-stream' },
})
