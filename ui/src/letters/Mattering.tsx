import { useQuery } from '@tanstack/react-query'
import { api, take, type Row } from '../api/client'
import { carryOut, told } from '../state/commands'
import type { Target } from '../state/listing'

/** Says of letters that they matter or don’t, whatever was learned. */
export const saysMatters = (on: readonly Target[], matters: boolean) =>
  void carryOut({ path: 'matters', body: { on: [...on], matters } }).then(told)

/** What was learned of who wrote, by which letters are ranked; it can be put right and forgotten. */
export function Mattering(props: { row: Pick<Row, 'id' | 'high'>; on: readonly Target[]; onClose: () => void }) {
  const { id, high } = props.row
  const { data } = useQuery({
    queryKey: ['learned', id],
    queryFn: () => take(api.GET('/api/conversations/{id}/learned', { params: { path: { id } } })),
  })
  const say = (matters: boolean) => {
    props.onClose()
    saysMatters(props.on, matters)
  }
  const forget = () => {
    props.onClose()
    void carryOut({ path: 'forget', id, body: {} }).then(told)
  }
  return (
    <section aria-label="What matters" className="mt-3">
      <p className="text-[14px] text-ink-2">
        {high && <b className="font-semibold text-ink">Ranked high: {high}. </b>}
        {data &&
          (data.letters === 0
            ? `Nothing was learned of ${data.sender} yet.`
            : `Of ${data.letters} letters from ${data.sender} you answered, followed up or handed on ${data.acted}${
                data.facts.length > 1 ? ` (${data.facts.join(', ')})` : ''
              }.`)}
      </p>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <button className="btn btn-small" onClick={() => say(true)}>
          Matters <span className="key">+</span>
        </button>
        <button className="btn btn-small" onClick={() => say(false)}>
          Doesn’t matter <span className="key">-</span>
        </button>
        {data && data.letters > 0 && (
          <button className="btn btn-small" onClick={forget}>
            Forget what was learned
          </button>
        )}
      </div>
    </section>
  )
}
