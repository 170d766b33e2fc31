import type { Schemas } from '@/shared/api/client'

/** What a mark says besides what it is. */
export type MarkDetails = Partial<Omit<Schemas['Marking'], 'items' | 'mark'>>

export const noDetails = { why: null, until: undefined, by: null, seriesId: null, askedOf: null }
