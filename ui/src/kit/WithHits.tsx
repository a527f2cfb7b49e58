import type { ReactNode } from 'react'

export type Hit = { from: number; to: number }

/** A text in which what was found is marked. */
export function WithHits({ text, hits = [] }: { text: string; hits?: Hit[] }) {
  if (hits.length === 0) return text
  const parts: ReactNode[] = []
  let at = 0
  for (const { from, to } of hits) {
    parts.push(
      text.slice(at, from),
      <mark key={from} className="rounded-sm bg-lamp-2 text-inherit">
        {text.slice(from, to)}
      </mark>,
    )
    at = to
  }
  return (
    <>
      {parts}
      {text.slice(at)}
    </>
  )
}
