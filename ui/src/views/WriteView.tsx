import { useNavigate, useSearch } from '@tanstack/react-router'
import { useEffect, useRef } from 'react'
import { api, errorText, take } from '../api/client'
import { startNew } from '../state/answering'
import { attach } from '../state/attaching'
import { failed } from '../state/failed'
import { onlyAccount } from '../state/narrowed'
import { composing, resume, type } from '../state/writing'

/** Where links to addresses lead, and what is shared from outside: a letter is begun, and
 * nothing is sent. */
export function WriteView() {
  const asked = useSearch({ strict: false }) as {
    mailto?: string
    subject?: string
    text?: string
    url?: string
    shared?: string
    draft?: string
  }
  const go = useNavigate()
  const begun = useRef(false)
  useEffect(() => {
    if (begun.current) return
    begun.current = true
    const begin = async () => {
      if (asked.draft) {
        const draft = (await take(api.GET('/api/drafts'))).find((d) => d.id === asked.draft)
        if (draft) return resume(draft)
        throw new Error('That letter is no longer among the drafts.')
      }
      const shared = asked.shared
        ? await take(api.GET('/api/shared/{name}', { params: { path: { name: asked.shared } } }))
        : { subject: asked.subject ?? '', text: asked.text ?? '', url: asked.url ?? '', files: [] }
      const files = await Promise.all(
        shared.files.map(async (f, i) => {
          const answer = await fetch(`/api/shared/${encodeURIComponent(asked.shared ?? '')}/${i}`)
          if (!answer.ok) throw new Error(`“${f.name}” did not come.`)
          return new File([await answer.blob()], f.name, { type: f.type })
        }),
      )
      const link = asked.mailto
        ? await take(api.POST('/api/mail-link', { body: { link: asked.mailto } }))
        : {
            to: [],
            cc: [],
            bcc: [],
            subject: shared.subject,
            body: [shared.text, shared.url].filter(Boolean).join('\n'),
          }
      startNew(onlyAccount.get())
      const signature = composing.get()?.writing.text ?? ''
      type({
        to: link.to,
        ...(link.cc.length > 0 ? { cc: link.cc } : {}),
        ...(link.bcc.length > 0 ? { bcc: link.bcc } : {}),
        subject: link.subject,
        text: link.body + signature,
      })
      attach(files)
    }
    begin()
      .catch((e: unknown) => failed(errorText(e, 'The letter could not be begun.')))
      .finally(() => void go({ to: '/inbox', replace: true }))
  }, [asked, go])
  return <div aria-busy className="m-4 h-40 animate-pulse rounded-[14px] bg-shore-2" />
}
