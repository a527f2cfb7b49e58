import { useQuery } from '@tanstack/react-query'
import { Smartphone, Star, X } from 'lucide-react'
import { useState } from 'react'
import { api, errorText, take } from '../api/client'
import { Menu } from '../kit/Menu'
import { failed } from '../state/failed'

const others = [
  'Archive',
  'Trash',
  'Junk',
  'Later',
  'Later/this evening',
  'Later/tomorrow',
  'Later/next week',
  'Follow up',
  'INBOX',
]

/** The phone of the demo: another program on the mail server of the private address. What
 * is done in it reaches Ebbe over that server alone. */
export function Phone({ onClose }: { onClose: () => void }) {
  const [folder, setFolder] = useState('INBOX')
  const phone = useQuery({
    queryKey: ['phone'],
    queryFn: () => take(api.GET('/api/demo/phone')),
    refetchInterval: 2000,
    staleTime: 0,
  })
  const letters = phone.data ?? []
  const folders = [...new Set(['INBOX', ...letters.map((l) => l.folder)])]
  const act = async (uid: number, what: 'move' | 'star' | 'unstar' | 'read', to = '') => {
    try {
      await take(api.POST('/api/demo/phone', { body: { folder, uid, act: what, to } }))
    } catch (e) {
      failed(errorText(e, 'That did not work.'))
    }
    void phone.refetch()
  }
  const shown = letters.filter((l) => l.folder === folder)
  return (
    <aside
      aria-label="The phone"
      className="fixed right-4 bottom-4 z-40 flex max-h-[70vh] w-80 max-w-[calc(100vw-2rem)] flex-col rounded-[14px] border border-line-2 bg-paper whitespace-normal text-ink shadow-float"
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Escape' && !e.defaultPrevented) onClose()
      }}
    >
      <div className="flex items-center gap-2 border-b border-line px-3 py-2">
        <Smartphone className="size-4 text-ink-2" aria-hidden />
        <h2 className="min-w-0 flex-1 truncate text-[14px] font-semibold">The phone, ines@halvorsen.example</h2>
        <button autoFocus className="btn btn-tight" aria-label="Put the phone away" onClick={onClose}>
          <X className="size-4" aria-hidden />
        </button>
      </div>
      <div className="flex flex-wrap gap-1 border-b border-line p-2" role="group" aria-label="Folders">
        {folders.map((f) => (
          <button
            key={f}
            className={`btn btn-tight text-[12px] ${f === folder ? 'border-tide' : ''}`}
            aria-pressed={f === folder}
            onClick={() => setFolder(f)}
          >
            {f}
          </button>
        ))}
      </div>
      <p className="border-b border-line px-3 py-1.5 text-[12px] text-ink-3">
        Another program on the mail server of this address. Connect the account with the password “lantern”, and both
        sides are kept alike.
      </p>
      <ul className="min-h-24 overflow-y-auto p-1 text-[13px]">
        {phone.isPending && <li aria-busy className="h-10 animate-pulse rounded bg-shore-2" />}
        {!phone.isPending && shown.length === 0 && <li className="p-3 text-ink-3">Nothing is in this folder.</li>}
        {shown.map((l) => (
          <li key={l.uid} className="flex items-center gap-1 rounded-lg px-2 py-1 hover:bg-shore-2">
            <button
              className="grid size-7 shrink-0 place-items-center"
              aria-label={`${l.star ? 'Unstar' : 'Star'} “${l.subject}” on the phone`}
              aria-pressed={l.star}
              onClick={() => void act(l.uid, l.star ? 'unstar' : 'star')}
            >
              <Star className={`size-4 ${l.star ? 'fill-lamp text-lamp' : 'text-ink-3'}`} aria-hidden />
            </button>
            <span className="min-w-0 flex-1">
              <span className={`block truncate ${l.read ? '' : 'font-semibold'}`}>{l.subject}</span>
              <span className="block truncate text-ink-3">{l.from}</span>
            </span>
            <Menu
              align="end"
              buttonClass="btn btn-tight text-[12px]"
              trigger={
                <>
                  Move<span className="sr-only"> “{l.subject}” on the phone</span>
                </>
              }
            >
              {(M) =>
                others
                  .filter((to) => to !== folder)
                  .map((to) => (
                    <M.Item
                      key={to}
                      className="cursor-pointer rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2"
                      onSelect={() => void act(l.uid, 'move', to)}
                    >
                      {to}
                    </M.Item>
                  ))
              }
            </Menu>
          </li>
        ))}
      </ul>
    </aside>
  )
}
