import { api, errorText, newId, take, Trouble, type AttachedFile, type FileView } from '../api/client'
import { client } from '../api/queries'
import { composing, save, type } from './writing'
import { watched } from './store'

/** How far a file has come. One that broke off goes on once it is chosen again. */
export interface Coming {
  came: number
  /** Why it doesn't go on; empty while it does. */
  trouble: string
}

/** The files that this page brings, by their ids. */
export const coming = watched<ReadonlyMap<string, Coming>>(new Map())

const set = (id: string, now: Coming) => coming.set((was) => new Map(was).set(id, now))
const forget = (id: string) => coming.set((was) => new Map([...was].filter(([k]) => k !== id)))

/** How much of a file is sent at once: what has come is kept, piece by piece. Where that goes
 * quickly more is sent at once, where it goes slowly less, so that one sees it come. */
const usualPiece = 2 << 20
let piece = usualPiece

/** Sends the next piece of a file, from a byte on; gives how much of it has come. */
async function putPiece(id: string, from: number, file: File): Promise<number> {
  const body = file.slice(from, from + piece)
  const began = performance.now()
  const came = await put(id, from, body).catch(async (e: unknown) => {
    if (!(e instanceof Trouble)) await readable(body) // it may be the file that is away, not the server
    throw e
  })
  const took = performance.now() - began
  if (took < 300 && body.size === piece) piece = Math.min(piece * 4, 8 * usualPiece)
  else if (took > 2000) piece = Math.max(piece / 4, usualPiece / 8)
  return came
}
const pause = 2000

let queue: Promise<void> = Promise.resolve()

/** Whether a file comes no further: here, or as the server told of what another page began. */
function brokeOff(draft: string, id: string): boolean {
  const here = coming.get().get(id)
  if (here) return here.trouble !== ''
  const there = client.getQueryData<FileView[]>(['files', draft])?.find((f) => f.id === id)
  return there !== undefined && there.came < there.size
}

/** Attaches files to the letter that is being written. Gives what they are called there. */
export function attach(files: File[]): AttachedFile[] {
  const open = composing.get()
  if (!open || files.length === 0) return []
  const known = open.writing.files ?? []
  const broken = (f: File) => known.find((k) => k.name === f.name && k.size === f.size && brokeOff(open.draft, k.id))
  const added: AttachedFile[] = []
  for (const file of files) {
    const again = broken(file)
    const f = again ?? { id: newId(), name: file.name || 'file', size: file.size, type: file.type }
    if (!again) added.push(f)
    set(f.id, { came: 0, trouble: '' })
    queue = queue.then(() => bring(open.draft, f, file))
  }
  if (added.length > 0) {
    type({ files: [...known, ...added] })
    void save()
  }
  return added
}

/** Takes a file off the letter. It is kept for as long as that can be undone. */
export function detach(id: string) {
  const files = composing.get()?.writing.files ?? []
  forget(id)
  type({ files: files.filter((f) => f.id !== id) })
}

/** Whether a file is wanted still: its letter may have been sent away without it. */
const wanted = (draft: string, id: string) => {
  const open = composing.get()
  return open?.draft !== draft || (open.writing.files ?? []).some((f) => f.id === id)
}

async function bring(draft: string, f: AttachedFile, file: File) {
  for (;;) {
    if (!wanted(draft, f.id)) return forget(f.id)
    try {
      let { came } = await take(api.POST('/api/drafts/{id}/files', { params: { path: { id: draft } }, body: f }))
      for (;;) {
        set(f.id, { came, trouble: '' })
        if (came >= f.size) return arrived(draft, f.id)
        if (!wanted(draft, f.id)) return forget(f.id)
        came = await putPiece(f.id, came, file)
      }
    } catch (e) {
      const now = coming.get().get(f.id)?.came ?? 0
      if (e instanceof Vanished)
        return set(f.id, { came: now, trouble: 'It can’t be read any more: it was moved or changed.' })
      if (e instanceof Trouble) return set(f.id, { came: now, trouble: errorText(e, 'It did not come.') })
      await new Promise((done) => setTimeout(done, pause)) // the server is away, and comes back
    }
  }
}

function arrived(draft: string, id: string) {
  forget(id)
  client.setQueryData<FileView[]>(['files', draft], (was) =>
    was?.map((f) => (f.id === id ? { ...f, came: f.size } : f)),
  )
}

class Vanished extends Error {}

async function readable(part: Blob) {
  try {
    await part.slice(0, 1).arrayBuffer()
  } catch {
    throw new Vanished()
  }
}

const put = async (file: string, from: number, body: Blob): Promise<number> => {
  const answer = await take(
    api.PUT('/api/attached/{file}', {
      params: { path: { file }, query: { from: String(from) } },
      body: body as never,
      bodySerializer: (b: unknown) => b as BodyInit,
      headers: { 'Content-Type': 'application/octet-stream' },
      parseAs: 'json',
    }),
  )
  return (answer as unknown as FileView).came
}

/** Uploads files that stay, for something else than a letter: a conversation, or a template.
 * Gives their ids once they are whole. */
export async function upload(draft: string, files: File[]): Promise<string[]> {
  const ids: string[] = []
  for (const file of files) {
    const f = { id: newId(), name: file.name || 'file', size: file.size, type: file.type }
    let { came } = await take(api.POST('/api/drafts/{id}/files', { params: { path: { id: draft } }, body: f }))
    while (came < f.size) came = await putPiece(f.id, came, file)
    ids.push(f.id)
  }
  return ids
}

/** Waits until nothing of a letter is on its way any more. */
export function settledFiles(ids: string[]): Promise<void> {
  const going = () => ids.some((id) => coming.get().get(id)?.trouble === '')
  return new Promise((done) => {
    if (!going()) return done()
    const stop = coming.watch(() => {
      if (going()) return
      stop()
      done()
    })
  })
}
