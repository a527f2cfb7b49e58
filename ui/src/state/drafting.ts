/** What is changed of some things, and how the one stood when that was begun. */
interface Drafted {
  id?: number
  was?: string
  hint?: string
}

/** What is being changed, if that is still there; what was taken away elsewhere is made anew. */
export function stillThere<T extends Drafted>(draft: T | undefined, all: { id: number }[] | undefined): T | undefined {
  if (draft?.id === undefined || !all || all.some((one) => one.id === draft.id)) return draft
  const anew = { ...draft, hint: 'It was taken away elsewhere. Once you keep this, it is made anew.' }
  delete anew.id
  return anew
}

/** What is said of something that was changed elsewhere while it is changed here. */
export const meanwhile = (draft: Drafted, now: string | undefined) =>
  draft.was !== undefined && now !== undefined && draft.was !== now
    ? 'It was changed elsewhere meanwhile. What you keep here takes the place of that.'
    : undefined
