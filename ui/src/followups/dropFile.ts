import { newId } from '../api/client'
import { tellDone } from '../state/commands'
import { failed } from '../state/failed'

/** A letter, or any other file, as a follow-up with it. */
export async function dropFile(file: File) {
  const query = new URLSearchParams({ command: newId(), name: file.name })
  try {
    const answer = await fetch(`/api/follow-ups/drop?${query.toString()}`, { method: 'POST', body: file })
    const out = (await answer.json()) as { title?: string; detail?: string }
    if (!answer.ok) return failed(out.detail ?? 'The file could not be taken.')
    tellDone(out.title ?? 'New follow-up')
  } catch {
    failed(`“${file.name}” could not be taken: Ebbe can’t be reached. Nothing was made.`)
  }
}
