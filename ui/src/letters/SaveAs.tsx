import { Download } from 'lucide-react'
import { Menu } from '../kit/Menu'
import { failed } from '../state/failed'

const formats = { mbox: 'An mbox file', maildir: 'A Maildir, zipped', eml: 'Single letters, zipped' } as const

/** As many chosen conversations as an address can name. */
const most = 5000

/** Saves the letters of conversations, or of a search, as files. */
export function SaveAs({
  conversations,
  search,
  within = '',
}: {
  conversations?: number[]
  search?: string
  within?: string
}) {
  const save = (format: string) => {
    if (conversations && conversations.length > most)
      return failed(`Up to ${most} conversations can be saved at once. Give them a label and save that.`)
    const what = conversations
      ? `conversations=${conversations.join(',')}`
      : `search=${encodeURIComponent(search ?? '')}&within=${encodeURIComponent(within)}`
    location.assign(`/api/export?format=${format}&${what}`)
  }
  return (
    <Menu
      buttonClass="btn btn-small shrink-0"
      trigger={
        <>
          <Download className="size-3.5" aria-hidden /> Save as…
        </>
      }
    >
      {(M) =>
        Object.entries(formats).map(([format, name]) => (
          <M.Item
            key={format}
            className="cursor-pointer rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2"
            onSelect={() => save(format)}
          >
            {name}
          </M.Item>
        ))
      }
    </Menu>
  )
}
