import type { Part } from '@/shared/parts'

/** Every part is a folder with a `part.ts`; no list names them. */
const found = import.meta.glob<Part>('../*/part.ts', { eager: true, import: 'default' })

export const allParts: Part[] = Object.values(found)
