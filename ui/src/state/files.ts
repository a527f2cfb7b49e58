import { api, newId, take, Trouble } from '../api/client'
import { refresh } from '../api/stale'
import { watched } from './store'

/** Files dropped or chosen, waiting for the person to say where they go. */
export const chosen = watched<File[]>([])

/** The upload under way in this page: bytes sent of bytes. */
export interface Upload {
  id: number
  name: string
  sent: number
  size: number
}
export const upload = watched<Upload | undefined>(undefined)
let running: XMLHttpRequest | undefined

export interface Place {
  inboxDays: number
  oldQuoting: boolean
}

const nameOf = (files: File[]) => (files.length === 1 ? (files[0]?.name ?? '') : `${files.length} files`)

/** Uploads files and lets the server take in their letters. */
export async function takeIn(files: File[], place: Place) {
  const name = nameOf(files)
  const made = await take(
    api.POST('/api/imports', {
      body: {
        command: newId(),
        name: name.slice(0, 200) || 'files',
        inboxDays: place.inboxDays || undefined,
        oldQuoting: place.oldQuoting || undefined,
      },
    }),
  )
  const params = { path: { id: made.id } }
  const size = files.reduce((sum, f) => sum + f.size, 0)
  upload.set({ id: made.id, name, sent: 0, size })
  refresh(['imports'])
  try {
    let before = 0
    for (const [number, file] of files.entries()) {
      await put(made.id, number, file, (sent) => upload.set({ id: made.id, name, sent: before + sent, size }))
      before += file.size
    }
    await take(api.POST('/api/imports/{id}/start', { params }))
  } catch (e) {
    await take(api.POST('/api/imports/{id}/stop', { params })).catch(() => undefined)
    throw e
  } finally {
    running = undefined
    upload.set(undefined)
    refresh(['imports'])
  }
}

/** Sends one file; fetch can't tell how far it has come. */
function put(id: number, number: number, file: File, progress: (sent: number) => void) {
  return new Promise<void>((resolve, reject) => {
    const request = new XMLHttpRequest()
    running = request
    request.open('PUT', `/api/imports/${id}/files/${number}?name=${encodeURIComponent(file.name)}`)
    request.upload.onprogress = (e) => progress(e.loaded)
    request.onload = () =>
      request.status < 300
        ? resolve()
        : reject(new Trouble(request.responseText || `${file.name} could not be taken.`, request.status))
    request.onerror = () => reject(new Trouble(`${file.name} could not be sent to Ebbe. Nothing was imported.`, 0))
    request.onabort = () => reject(new Trouble('The upload was stopped. Nothing was imported.', 0))
    request.send(file)
  })
}

/** Ends an import: its upload, or the taking in. */
export async function stopImport(id: number) {
  if (upload.get()?.id === id) return running?.abort()
  await take(api.POST('/api/imports/{id}/stop', { params: { path: { id } } }))
  refresh(['imports'])
}

/** The files of a drop, also those in folders. */
export async function filesOf(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry?.()).filter((e) => e !== null && e !== undefined)
  if (entries.length === 0) return [...data.files]
  const out: File[] = []
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      out.push(await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)))
      return
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader()
    for (;;) {
      // A reader gives a hundred entries at a time.
      const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
      if (some.length === 0) return
      for (const e of some) await walk(e)
    }
  }
  for (const e of entries) await walk(e)
  return out
}
