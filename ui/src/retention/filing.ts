import type { Schemas } from '@/shared/api/client'
import { count, plural } from '@/shared/format'
import { confidenceWords } from '@/shared/words'

/** What a new filing rule begins with. */
export type RuleBeginning = { name: string; kind: string; seriesId: number | null }

/** What a filing rule looks for, in words. */
export function foundBy(definition: Schemas['FilingRuleDefinition']): string {
  const kinds = definition.kinds.map(
    (k) => `${k.count > 1 ? `${plural(k.count, 'find')} of ` : ''}${k.kind}, at least ${confidenceWords[k.least]}`,
  )
  return [...(definition.query ? [definition.query] : []), ...kinds].join('; ')
}

const percent = (share: number) => `${Math.round(share * 100)} %`

/** The share of samples that were right, and where the true share lies. */
export const precisionWords = (p: Schemas['Precision']) =>
  p.share === null
    ? 'not judged yet'
    : `${percent(p.share)} of ${count(p.right + p.wrong)}, truly ${percent(p.low!)} to ${percent(p.high!)}`
