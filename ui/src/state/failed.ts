import { toast } from './toast'

/** Says what did not work. It stays until it is closed: nobody has to read in a
 * hurry (WCAG 2.2.1). */
export const failed = (text: string) => toast.error(text, { duration: Infinity, closeButton: true })
