import { describe, expect, it } from 'vitest'
import { bytes, day, keepUntil, plural } from './format'
import { periodWords, signers, simplePeriod, stageOf, triggerWords } from './words'

describe('sentences are right English', () => {
  it('says who signs, in order, for one and many', () => {
    expect(signers([stageOf('recordsManager'), stageOf('recordsManager')])).toBe('two records managers')
    expect(signers([stageOf('steward'), stageOf('recordsManager')])).toBe('a steward and a records manager')
    expect(signers([stageOf('steward'), stageOf('recordsManager'), stageOf('recordsManager')])).toBe(
      'a steward and two records managers',
    )
    expect(signers([])).toBe('nobody')
    expect(signers([{ ...stageOf('steward'), person: 'maren.holt@tarnholm.example' }, stageOf('recordsManager')])).toBe(
      'maren.holt and a records manager',
    )
  })
  it('says a period', () => {
    expect(periodWords('P1Y')).toBe('1 year')
    expect(periodWords('P7Y')).toBe('7 years')
    expect(periodWords('P1Y6M')).toBe('1 year and 6 months')
    expect(periodWords('P1Y2M3D')).toBe('1 year, 2 months and 3 days')
  })
  it('says where the clock starts', () => {
    expect(triggerWords('created')).toBe('it was created')
    expect(triggerWords('field:last-entry')).toBe('its “last entry” date falls')
  })
  it('reads a period of one unit and no other', () => {
    expect(simplePeriod('P18M')).toEqual({ count: 18, unit: 'M' })
    expect(simplePeriod('P1Y6M')).toBeNull()
    expect(simplePeriod(null)).toBeNull()
  })
})

describe('figures are written as people read them', () => {
  it('writes dates without a shift by zone', () => {
    expect(day('2026-03-14')).toBe('14 Mar 2026')
    expect(day('2026-01-01')).toBe('1 Jan 2026')
    expect(day(null)).toBe('–')
  })
  it('writes counts with their word', () => {
    expect(plural(1, 'item')).toBe('1 item')
    expect(plural(1289, 'item')).toBe('1,289 items')
    expect(plural(2, 'series', 'series')).toBe('2 series')
  })
  it('writes bytes in binary units that say so', () => {
    expect(bytes(1023)).toBe('1,023 B')
    expect(bytes(1536)).toBe('1.5 KiB')
    expect(bytes(18.4 * 2 ** 30)).toBe('18.4 GiB')
  })
  it('writes what a keep-until can be', () => {
    expect(keepUntil('permanent')).toBe('permanently')
    expect(keepUntil('awaiting-event')).toBe('waits for a date')
    expect(keepUntil('2026-09-30')).toBe('30 Sep 2026')
    expect(keepUntil(null)).toBe('nothing keeps it')
  })
})
