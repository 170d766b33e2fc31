import type { Part } from '@/shared/part'

/** Every part is a folder with a `part.ts`; no list names them. */
const found = import.meta.glob<{ default: Part }>('../*/part.ts', { eager: true })

export const allParts: Part[] = Object.values(found).map((module) => module.default)
