import { ref } from 'vue'

/** Set while a decision by link waits for the code that was mailed to its holder. */
export const codeAsked = ref<{ done: (proven: boolean) => void } | null>(null)

/**
 * Asks whoever holds a link for the code from their mailbox.
 * @returns Whether the code was right, so that the decision can be sent again.
 */
export function proveLink(): Promise<boolean> {
  return new Promise((resolve) => {
    codeAsked.value = {
      done: (proven) => {
        codeAsked.value = null
        resolve(proven)
      },
    }
  })
}
