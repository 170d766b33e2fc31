/** Under what all that a person types in this tab is kept. */
export const typedBy = (id: number) => `widekeel.typed.${id}.`

/** At sign-out, what the person did not keep on purpose goes. */
export function forgetTyped(id: number) {
  for (const key of Object.keys(sessionStorage)) if (key.startsWith(typedBy(id))) sessionStorage.removeItem(key)
}
