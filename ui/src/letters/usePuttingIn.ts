import type { RefObject } from 'react'
import type { Suggestion, Template } from '../api/client'
import { carryOut, told } from '../state/commands'
import { insert } from '../state/markdown'
import { putTemplate } from '../state/preparing'
import { composing, type, type Open } from '../state/writing'

/** What was prepared comes into what is written: proposed answers and templates. */
export function usePuttingIn(
  open: Open,
  text: RefObject<HTMLTextAreaElement | null>,
  /** Goes to the first field that is to be filled in, else to the text. */
  fillIn: () => void,
) {
  const w = open.writing
  return {
    suggestion(s: Suggestion | undefined) {
      if (!s || !text.current) return
      text.current.setSelectionRange(0, 0)
      insert(text.current, `${s.text}\n`, false)
      type({ fields: [...new Set([...(w.fields ?? []), ...(s.fields ?? [])])] })
      fillIn()
    },
    template(t: Template) {
      putTemplate(t.id, composing.get() ?? open, fillIn)
    },
    keep(name: string, ownText: string) {
      void carryOut({
        path: 'new-template',
        body: { name, subject: w.subject, text: ownText, markdown: w.markdown },
      }).then(told)
    },
  }
}
