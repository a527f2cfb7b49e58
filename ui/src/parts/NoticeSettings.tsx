import { toast } from 'sonner'
import type { Notices } from '../api/client'
import { carryOut } from '../state/commands'
import { allowNotifications, sound } from '../state/ring'

const kinds = [
  ['through', 'Letters let through'],
  ['reminders', 'Reminders'],
  ['rounds', 'Rounds'],
  ['mentions', 'Letters that name you'],
] as const

/** What may interrupt: nothing, unless the person says so. */
export function NoticeSettings({ notices }: { notices: Notices }) {
  const keep = (n: Notices) => void carryOut({ path: 'notices', body: n })
  const browser = async (kind: (typeof kinds)[number][0], on: boolean) => {
    if (on && !(await allowNotifications()))
      return toast.error('The browser does not allow notifications for this page.')
    keep({ ...notices, [kind]: { ...notices[kind], browser: on } })
  }
  return (
    <section aria-label="Notifications" className="rounded-[14px] bg-paper p-4">
      <h2 className="pb-1 text-[15px] font-semibold">Notifications</h2>
      <p className="pb-2 text-[13px] text-ink-2">
        In quiet hours only letters let through and reminders with a minute of their own.
      </p>
      <table className="w-full text-[13px]">
        <thead>
          <tr className="text-left text-ink-3">
            <td />
            <th scope="col" className="font-normal">
              Browser
            </th>
            <th scope="col" className="font-normal">
              Sound
            </th>
          </tr>
        </thead>
        <tbody>
          {kinds.map(([k, words]) => (
            <tr key={k}>
              <th scope="row" className="h-8 text-left font-normal">
                {words}
              </th>
              <td>
                <input
                  type="checkbox"
                  aria-label={`${words}: notification of the browser`}
                  className="size-4 accent-[var(--tide)]"
                  checked={notices[k].browser}
                  onChange={(e) => void browser(k, e.target.checked)}
                />
              </td>
              <td>
                <input
                  type="checkbox"
                  aria-label={`${words}: sound`}
                  className="size-4 accent-[var(--tide)]"
                  checked={notices[k].sound}
                  onChange={(e) => {
                    if (e.target.checked) sound()
                    keep({ ...notices, [k]: { ...notices[k], sound: e.target.checked } })
                  }}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <label className="flex min-h-8 items-center gap-2 pt-1 text-[13px]">
        <input
          type="checkbox"
          className="size-4 accent-[var(--tide)]"
          checked={notices.count}
          onChange={(e) => keep({ ...notices, count: e.target.checked })}
        />
        Count of the inbox in the page’s title and icon
      </label>
    </section>
  )
}
