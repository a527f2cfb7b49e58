import { useNavigate, useSearch } from '@tanstack/react-router'
import { useEffect, useRef } from 'react'
import { api, errorText, take } from '../api/client'
import { startNew } from '../state/answering'
import { failed } from '../state/failed'
import { onlyAccount } from '../state/narrowed'
import { composing, type } from '../state/writing'

/** Where links to addresses lead, and what is shared from outside: a letter is begun, and
 * nothing is sent. */
export function WriteView() {
  const asked = useSearch({ strict: false }) as { mailto?: string; subject?: string; text?: string; url?: string }
  const go = useNavigate()
  const begun = useRef(false)
  useEffect(() => {
    if (begun.current) return
    begun.current = true
    const begin = async () => {
      const link = asked.mailto
        ? await take(api.POST('/api/mail-link', { body: { link: asked.mailto } }))
        : {
            to: [],
            cc: [],
            bcc: [],
            subject: asked.subject ?? '',
            body: [asked.text, asked.url].filter(Boolean).join('\n'),
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
    }
    begin()
      .catch((e: unknown) => failed(errorText(e, 'The letter could not be begun.')))
      .finally(() => void go({ to: '/inbox', replace: true }))
  }, [asked, go])
  return <div aria-busy className="m-4 h-40 animate-pulse rounded-[14px] bg-shore-2" />
}
