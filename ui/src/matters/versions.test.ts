import { beforeEach, expect, it } from 'vitest'
import { answers, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import RunFigures from './RunFigures.vue'
import SweepHits from './SweepHits.vue'
import VersionDialog from './VersionDialog.vue'

tidyUp()
standIn()
const version = (more: Partial<Schemas['KeptVersion']> = {}): Schemas['KeptVersion'] => ({
  itemId: 7,
  hash: 'aa',
  bytes: 12,
  at: '2026-06-12T08:00:00Z',
  until: '2026-06-13T08:00:00Z',
  isNow: false,
  fits: true,
  found: { title: [], snippet: 'contact with pier 4', snippetMarks: [{ start: 0, length: 7, end: 7 }] },
  ...more,
})
beforeEach(() => {
  signedIn()
  answers['GET /api/matters/{id}/items/{item}/versions'] = [
    version({ hash: 'bb', isNow: true, until: null }),
    version(),
  ]
  answers['GET /api/matters/{id}/items/{item}/versions/{hash}'] = {
    kind: 'text',
    content: 'contact with pier 4',
    note: null,
    marks: [{ start: 0, length: 7, end: 7 }],
    finds: [],
  }
})

const hits = (versions: Schemas['KeptVersion'][]) => {
  answers['GET /api/matters/{id}/runs/{run}/items'] = {
    items: [{ id: 7, title: 'report', state: 'held', container: 'Fleet', created: '2020-01-01', author: null }],
    next: null,
    total: 1,
    bytes: 12,
    versions,
  }
  return place(SweepHits, {
    matter: { id: 2, tags: [], part: 'lead', state: 'open' },
    run: 3,
    title: '1 item',
    query: {},
    words: 'contact',
  })
}

it('shows the words of the version by which an item was found', async () => {
  await hits([version()])
  expect(document.body.textContent).toContain('Found in its version of')
  expect(document.body.querySelector('li mark')?.textContent).toBe('contact')
})
it('counts the versions that do not fit', async () => {
  await hits([version({ fits: false, found: null })])
  expect(document.body.textContent).toContain('1 other version')
})
it('opens the version that was found', async () => {
  await hits([version()])
  await press('Found in its version of')
  expect(calls('GET /api/matters/{id}/items/{item}/versions/{hash}')[0]).toMatchObject({
    params: { path: { hash: 'aa' } },
  })
})
it('opens the newest version where none is chosen', async () => {
  await place(VersionDialog, { matter: 2, item: 7, title: 'report' })
  expect(calls('GET /api/matters/{id}/items/{item}/versions/{hash}')[0]).toMatchObject({
    params: { path: { hash: 'bb' } },
  })
})
it('hands out the file as it was', async () => {
  await place(VersionDialog, { matter: 2, item: 7, title: 'report', begin: 'aa' })
  expect(document.body.querySelector('a[download]')?.getAttribute('href')).toBe(
    '/api/matters/2/items/7/versions/aa/file',
  )
})
it('opens the figures of former versions into their items', async () => {
  const figures = { documents: 1, families: 1, added: null, gone: null, unreadable: 0, versions: 2, onlyFormer: 1 }
  const wrapper = await place(RunFigures, {
    matter: 2,
    run: { id: 3, at: '2026-06-12T08:00:00Z', items: 1, bytes: 12 },
    figures,
  })
  await press('2 former versions')
  await wrapper.findAll('button').at(-1)!.trigger('click')
  expect(wrapper.emitted('look')!.map((e) => e[1])).toEqual([{ former: 'fits' }, { former: 'only' }])
})
