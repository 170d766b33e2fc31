import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'

type Batch = Schemas['BatchView']

/** Its next signature is the last: what it marks is carried out after it. */
export const isLast = (batch: Batch) => batch.signOffs.length === batch.stages.length - 1

/** What a signature does, on its button: `Sign stage 1 of 2`, `Sign and destroy 49`. */
export function signWords(batch: Batch) {
  if (!isLast(batch)) return `Sign stage ${batch.signOffs.length + 1} of ${batch.stages.length}`
  const doing = [
    batch.toDestroy ? `destroy ${count(batch.toDestroy)}` : '',
    batch.toTransfer ? `hand over ${count(batch.toTransfer)}` : '',
  ]
  return `Sign and ${doing.filter(Boolean).join(', ') || 'carry it out'}`
}

/** Typed before what cannot be undone. */
export const wordOf = (batch: Batch) => (batch.toDestroy ? 'destroy' : batch.toTransfer ? 'hand over' : 'carry out')
