import { useState } from 'react'
import { Dialog } from '../kit/Dialog'
import { beginning } from '../state/beginning'
import { actions, changedKeys, keyName, singleKeys, useKeyOf, type Action } from '../state/keys'

/** All keys; each can be changed, and single keys can be turned off. */
export function KeysDialog({ onClose }: { onClose: () => void }) {
  const keyOf = useKeyOf()
  const on = singleKeys.use()
  const [changing, setChanging] = useState<Action>()
  const groups = [...new Set(Object.values(actions).map((a) => a.group))]
  return (
    <Dialog title="Keys" hint="press one to change it" wide onClose={onClose}>
      <label className="mb-3 flex items-center gap-2">
        <input
          type="checkbox"
          className="size-4 accent-[var(--tide)]"
          checked={on}
          onChange={(e) => singleKeys.set(e.target.checked)}
        />
        Single keys work (arrows, Ctrl Z and the keys in dialogs always do)
      </label>
      <button
        className="btn mb-3"
        onClick={() => {
          beginning.set('wanted')
          onClose()
        }}
      >
        Show the first minutes again, in the inbox
      </button>
      <div className="columns-1 gap-8 sm:columns-2">
        {groups.map((g) => (
          <section key={g} className="mb-4 break-inside-avoid">
            <h3 className="mb-1 text-[13px] font-semibold text-ink-3">{g}</h3>
            {(Object.keys(actions) as Action[])
              .filter((a) => actions[a].group === g)
              .map((a) => (
                <div key={a} className="flex items-center gap-2 py-0.5">
                  <span className="min-w-0 flex-1">{actions[a].what}</span>
                  <button
                    className="key !h-7 !min-w-10 hover:bg-tide-3"
                    aria-label={`${changing === a ? 'press…' : keyName(keyOf(a)) || 'none'}: change the key of ${actions[a].what}`}
                    data-own-keys
                    onClick={() => setChanging(a)}
                    onBlur={() => setChanging(undefined)}
                    onKeyDown={(e) => {
                      // Shift by itself is on the way to a capital.
                      if (
                        changing !== a ||
                        ['Tab', 'Enter', 'Shift', 'Control', 'Alt', 'Meta', 'CapsLock'].includes(e.key)
                      )
                        return
                      e.preventDefault()
                      e.stopPropagation()
                      setChanging(undefined)
                      if (e.key === 'Escape') return
                      const key = e.key === 'Backspace' || e.key === 'Delete' ? '' : e.key
                      changedKeys.set((was) => {
                        const now = { ...was, [a]: key }
                        // A key does one thing: whatever had it gives it up.
                        for (const other of Object.keys(actions) as Action[])
                          if (other !== a && key && (now[other] ?? actions[other].key) === key) now[other] = ''
                        return now
                      })
                    }}
                  >
                    {changing === a ? 'press…' : keyName(keyOf(a)) || 'none'}
                  </button>
                </div>
              ))}
          </section>
        ))}
      </div>
      <button className="btn self-start" onClick={() => changedKeys.set({})}>
        All keys as they were
      </button>
    </Dialog>
  )
}
