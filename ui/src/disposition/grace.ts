import { day } from '@/shared/format'
import { today } from '@/shared/session'

/** What is said of the day on which grace ends: `grace until 1 Mar 2026`. */
export const grace = (iso: string) => (iso < today.value ? `grace ended ${day(iso)}` : `grace until ${day(iso)}`)
