import { watched } from './store'

/** The account to which the inbox is narrowed; 0 for none. */
export const onlyAccount = watched(0)
