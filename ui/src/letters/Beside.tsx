import { part } from '../kit/part'
import { useState, type ReactNode } from 'react'
import { useConversation } from '../api/queries'
import { flag, label, quieten, star } from '../state/marking'
import { composing } from '../state/writing'
import { Sheet } from './Sheet'

const LabelDialog = part(() => import('./LabelDialog').then((m) => m.LabelDialog))

/** A list that is not one of letters, and beside it, where there is room, the
 * letter that the line in focus is about. */
export function Beside({ id, children }: { id: number | undefined; children: ReactNode }) {
  const writing = composing.use()
  const answering = id !== undefined && writing?.conversation === id
  return (
    <div className="flex min-h-0 w-full flex-1 gap-3 px-4 max-md:px-2">
      {/* A letter is answered in sight of it: it takes the place of the list. */}
      <div className={`min-h-0 min-w-0 flex-1 flex-col xl:max-w-[54%] ${answering ? 'flex xl:hidden' : 'flex'}`}>
        {children}
      </div>
      <aside aria-label="The letter" className="flex min-h-0 min-w-0 flex-1 flex-col pb-3 max-xl:hidden">
        {id ? (
          <Letter id={id} />
        ) : (
          <p className="grid flex-1 place-items-center rounded-[14px] border border-dashed border-line p-8 text-ink-3">
            No letter to show: it is not about one, or its letter is still held outside.
          </p>
        )}
      </aside>
    </div>
  )
}

function Letter({ id }: { id: number }) {
  const { data: c } = useConversation(id)
  const [labelling, setLabelling] = useState(false)
  return (
    <>
      <Sheet
        id={id}
        onStar={() => c && star(c)}
        onFlag={() => c && flag(c)}
        onLabel={() => setLabelling(true)}
        onQuiet={() => c && quieten(c)}
      />

      {labelling && c && (
        <LabelDialog
          file={false}
          hint={c.title}
          onClose={() => setLabelling(false)}
          onTake={(labels) => {
            setLabelling(false)
            label(c, labels)
          }}
        />
      )}
    </>
  )
}
