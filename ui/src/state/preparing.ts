import { api, errorText, take } from '../api/client'
import { failed } from './failed'
import { composing, type, type Open } from './writing'

/** Puts a template into what is being written, filled in as far as that is known. */
export function putTemplate(template: number, at: Open | undefined = composing.get(), then?: () => void) {
  if (!at) return
  const { draft, writing } = at
  take(api.POST('/api/templates/{id}/filled', { params: { path: { id: template } }, body: { draft, writing } })).then(
    ({ text, subject, markdown, fields, files }) => {
      if (composing.get()?.draft !== draft) return
      type({ text, subject, markdown, fields, files })
      then?.()
    },
    (e: unknown) => failed(errorText(e, 'The template could not be put in.')),
  )
}
