import type { LabelView } from '../api/client'
import { client } from '../api/queries'
import { watched } from './store'

/** The labels that look like something, by their names: one store for all rows, which ask for it often. */
export const labelLooks = watched<ReadonlyMap<string, LabelView>>(new Map())

client.getQueryCache().subscribe((e) => {
  if (e.type !== 'updated' || e.action.type !== 'success') return
  const [of, all] = e.query.queryKey
  if (of !== 'labels' || all !== 'all') return
  const list = (e.query.state.data ?? []) as LabelView[]
  labelLooks.set(new Map(list.filter((l) => l.colour).map((l) => [l.name, l])))
})
