import type { AppointmentFields } from './commands'
import { watched } from './store'

/** The appointment that is open: one that is there, or one to be made. */
export interface Appointing {
  id?: number
  conversation?: number
  title?: string
  when?: string
  invite?: string
  /** What had been typed when the server refused it. */
  typed?: AppointmentFields
}

export const appointing = watched<Appointing | undefined>(undefined)
export const closeAppointment = () => appointing.set(undefined)
