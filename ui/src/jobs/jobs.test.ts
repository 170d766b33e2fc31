import { beforeEach, expect, it, vi } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import JobTray from './JobTray.vue'

/** The server's end: whether a connection comes about (else the tray shows what it reads), and who listens to it. */
const server = vi.hoisted(() => ({ answers: false, listeners: [] as { error: () => void }[] }))
vi.mock('@microsoft/signalr', () => {
  const hub = {
    withUrl: () => hub,
    withAutomaticReconnect: () => hub,
    configureLogging: () => hub,
    build: () => ({
      state: 'Connected',
      onreconnected: () => undefined,
      start: () => (server.answers ? Promise.resolve() : Promise.reject(new Error())),
      stop: () => undefined,
      stream: () => ({ subscribe: (listener: { error: () => void }) => server.listeners.push(listener) }),
    }),
  }
  return {
    HubConnectionBuilder: class {
      constructor() {
        return hub
      }
    },
    HttpTransportType: { WebSockets: 1 },
    HubConnectionState: { Connected: 'Connected' },
    LogLevel: { None: 6 },
  }
})

tidyUp()
standIn()
const job = (id: number, more: Partial<Schemas['JobView']> = {}): Schemas['JobView'] => ({
  id,
  kind: 'scan',
  subjectId: 0,
  title: `Work ${id}`,
  state: 'done',
  done: 0,
  total: 0,
  message: null,
  askedBy: 'Ines',
  askedAt: '2026-06-15T08:00:00Z',
  startedAt: null,
  endedAt: null,
  changes: [],
  mayBeStopped: false,
  ...more,
})
beforeEach(() => signedIn())
async function opened(...jobs: Schemas['JobView'][]) {
  answers['GET /api/jobs'] = jobs
  const wrapper = await place(JobTray)
  await wrapper.find('button[aria-label="Long work"]').trigger('click')
  return wrapper
}

it('says how far the work is that runs', async () => {
  const wrapper = await opened(job(1, { state: 'running', done: 30, total: 120 }))
  expect(wrapper.find('[role=status]').text()).toBe('25 %')
})
it('shows work of unknown length as going on', async () => {
  const wrapper = await opened(job(1, { state: 'running' }))
  expect([wrapper.find('[role=status]').text(), wrapper.find('progress').attributes('value')]).toEqual(['…', undefined])
})
it('lists the newest twelve', async () => {
  const wrapper = await opened(...Array.from({ length: 15 }, (_, i) => job(i + 1)))
  expect([wrapper.findAll('.job').length, wrapper.find('.job strong').text()]).toEqual([12, 'Work 15'])
})
it('says why work failed', async () => {
  const wrapper = await opened(job(1, { state: 'failed', message: 'The share does not answer.' }))
  expect(wrapper.find('.job').text()).toContain('failed')
  expect(wrapper.find('.job').text()).toContain('The share does not answer.')
})
it('stops what may be stopped', async () => {
  answers['POST /api/jobs/{id}/cancellation'] = {}
  await opened(job(1, { state: 'running', mayBeStopped: true }))
  await press('Stop it')
  expect(calls('POST /api/jobs/{id}/cancellation').length).toBe(1)
})
it('listens again where the server gave the stream up', async () => {
  server.answers = true
  await opened(job(1))
  await vi.waitFor(() => expect(server.listeners.length).toBe(1))
  vi.useFakeTimers()
  server.listeners[0]!.error()
  vi.runAllTimers()
  vi.useRealTimers()
  expect(server.listeners.length).toBe(2)
  server.answers = false
})
it('offers no stop for what runs to its end', async () => {
  await opened(job(1, { state: 'running' }))
  expect(button('Stop it')).toBeUndefined()
})
it('says so where there was no work yet', async () => {
  expect((await opened()).text()).toContain('Nothing so far.')
})

it('makes nothing stale for work that had ended before the page was opened', async () => {
  server.answers = true
  const done = Array.from({ length: 40 }, (_, i) => job(i + 1, { changes: ['messages'] }))
  await opened(...done)
  await new Promise((resolve) => setTimeout(resolve, 150))
  expect(calls('GET /api/jobs')).toHaveLength(1)
  server.answers = false
})
