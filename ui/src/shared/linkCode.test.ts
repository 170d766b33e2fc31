import { expect, it, vi } from 'vitest'
import { useAct } from './act'
import { Problem } from './api/client'
import LinkCode from './LinkCode.vue'
import { codeAsked } from './linkCode'
import { answers, calls, place, press, standIn, tidyUp, type } from './testing'

tidyUp()
standIn()

/** A decision that asks for the code the first time. */
async function decide() {
  answers['POST /api/links/{token}/code'] = { mail: 'v…@tarn.example' }
  answers['POST /api/links/{token}/entrance'] = {}
  let first = true
  const sent = vi.fn(() => {
    if (!first) return Promise.resolve('done')
    first = false
    return Promise.reject(new Problem('link-code-needed', 'Enter the code.'))
  })
  let acting!: ReturnType<typeof useAct>
  const Host = {
    components: { LinkCode },
    setup: () => {
      acting = useAct([])
      return {}
    },
    template: '<LinkCode />',
  }
  await place(Host, {}, '/review/tok')
  const done = acting.act(sent)
  await vi.waitFor(() => expect(calls('POST /api/links/{token}/code')).toHaveLength(1))
  return { done, sent, acting }
}

it('sends the decision again once the code was right', async () => {
  const { done, sent } = await decide()
  await type('#link-code', '123456')
  await press('Continue')
  expect([await done, sent.mock.calls.length]).toEqual([true, 2])
})
it('sends what was typed', async () => {
  const { done } = await decide()
  await type('#link-code', '123456')
  await press('Continue')
  await done
  expect(calls('POST /api/links/{token}/entrance')[0]!.body).toEqual({ code: '123456' })
})
it('decides nothing where the dialog is closed', async () => {
  const { done, sent, acting } = await decide()
  codeAsked.value!.done(false)
  expect([await done, sent.mock.calls.length, acting.problem.value?.code]).toEqual([false, 1, 'link-code-needed'])
})
