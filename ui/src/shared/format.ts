const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']
const whole = new Intl.NumberFormat('en-GB')

export const count = (n: number) => whole.format(n)

/** `1 item`, `2 items`; with a word for many where it is not the one with an s. */
export const plural = (n: number, word: string, many = `${word}s`) => `${count(n)} ${n === 1 ? word : many}`

/** `2026-03-14` → `14 Mar 2026`. */
export function day(iso: string | null | undefined): string {
  if (!iso) return '–'
  const [y, m, d] = iso.slice(0, 10).split('-').map(Number)
  return `${d} ${months[(m ?? 1) - 1]} ${y}`
}

/** An instant in the viewer's zone: `15 Jun 2026, 08:04`. */
export function moment(iso: string | null | undefined): string {
  if (!iso) return '–'
  const at = new Date(iso)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${at.getDate()} ${months[at.getMonth()]} ${at.getFullYear()}, ${two(at.getHours())}:${two(at.getMinutes())}`
}

/** Bytes in binary units, which say that they are. */
export function bytes(n: number): string {
  const units = ['B', 'KiB', 'MiB', 'GiB', 'TiB']
  let at = 0
  let value = n
  while (value >= 1024 && at < units.length - 1) {
    value /= 1024
    at++
  }
  return `${value >= 100 || at === 0 ? whole.format(Math.round(value)) : value.toFixed(1)} ${units[at]}`
}

/** Days since 1970 for an ISO date, to place it on an axis. */
export const dayNumber = (iso: string) =>
  Math.round(Date.UTC(+iso.slice(0, 4), +iso.slice(5, 7) - 1, +iso.slice(8, 10)) / 86_400_000)

/** What a keep-until says in words. */
export function keepUntil(value: string | null | undefined): string {
  if (!value) return 'nothing keeps it'
  if (value === 'permanent') return 'permanently'
  if (value === 'awaiting-event') return 'waits for a date'
  return day(value)
}

/** `May 2024` of the month's first day. */
export const monthWords = (iso: string) =>
  new Date(`${iso}T12:00:00Z`).toLocaleDateString('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' })
