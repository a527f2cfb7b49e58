import { watched } from './store'

/** The appointment that is open: one that is there, or one to be made. */
export interface Appointing {
  id?: number
  conversation?: number
  title?: string
  when?: string
  invite?: string
}

export const appointing = watched<Appointing | undefined>(undefined)
