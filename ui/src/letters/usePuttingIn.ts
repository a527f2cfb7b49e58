import type { RefObject } from 'react'
import { api, errorText, take, type Suggestion, type Template } from '../api/client'
import { carryOut, told } from '../state/commands'
import { failed } from '../state/failed'
import { insert } from '../state/markdown'
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
      const { draft, writing } = composing.get() ?? open
      take(api.POST('/api/templates/{id}/filled', { params: { path: { id: t.id } }, body: { draft, writing } })).then(
        ({ text, subject, markdown, fields, files }) => {
          if (composing.get()?.draft !== draft) return
          type({ text, subject, markdown, fields, files })
          fillIn()
        },
        (e: unknown) => failed(errorText(e, 'The template could not be put in.')),
      )
    },
    keep(name: string, ownText: string) {
      void carryOut({
        path: 'new-template',
        body: { name, subject: w.subject, text: ownText, markdown: w.markdown },
      }).then(told)
    },
  }
}
