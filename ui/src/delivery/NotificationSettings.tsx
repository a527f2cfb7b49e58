import type { Notifications } from '../api/client'
import { carryOut } from '../state/commands'
import { allowNotifications, sound } from '../state/ring'
import { failed } from '../state/failed'

const kinds = [
  ['through', 'Letters let through'],
  ['reminders', 'Reminders'],
  ['rounds', 'Rounds'],
  ['mentions', 'Letters that name you'],
] as const

const ways = [
  ['browser', 'Browser', 'notification of the browser'],
  ['count', 'Count', 'counted in the page’s title and icon'],
  ['sound', 'Sound', 'sound'],
] as const
type Way = (typeof ways)[number][0]

/** What may interrupt: nothing, unless the person says so. */
export function NotificationSettings({ notifications }: { notifications: Notifications }) {
  const keep = (n: Notifications) => void carryOut({ path: 'notifications', body: n })
  const set = async (kind: (typeof kinds)[number][0], way: Way, on: boolean) => {
    if (on && way === 'browser' && !(await allowNotifications()))
      return failed('The browser does not allow notifications for this page.')
    if (on && way === 'sound') sound()
    keep({ ...notifications, [kind]: { ...notifications[kind], [way]: on } })
  }
  return (
    <section aria-label="Notifications" className="rounded-[14px] bg-paper p-4">
      <h2 className="pb-1 text-[15px] font-semibold">Notifications</h2>
      <p className="pb-2 text-[13px] text-ink-2">
        In quiet hours only letters let through and reminders with a minute of their own. What is counted stands in the
        page’s title and icon until you look.
      </p>
      <table className="w-full text-[13px]">
        <thead>
          <tr className="text-left text-ink-3">
            <td />
            {ways.map(([way, head]) => (
              <th key={way} scope="col" className="font-normal">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {kinds.map(([k, words]) => (
            <tr key={k}>
              <th scope="row" className="h-8 text-left font-normal">
                {words}
              </th>
              {ways.map(([way, , label]) => (
                <td key={way}>
                  <input
                    type="checkbox"
                    aria-label={`${words}: ${label}`}
                    className="size-4 accent-[var(--tide)]"
                    checked={notifications[k][way] ?? false}
                    onChange={(e) => void set(k, way, e.target.checked)}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <label className="flex min-h-8 items-center gap-2 pt-1 text-[13px]">
        <input
          type="checkbox"
          className="size-4 accent-[var(--tide)]"
          checked={notifications.count}
          onChange={(e) => keep({ ...notifications, count: e.target.checked })}
        />
        The inbox’s number in the page’s title and icon too
      </label>
    </section>
  )
}
