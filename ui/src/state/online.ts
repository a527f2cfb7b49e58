import { watched } from './store'

const online = watched(true)
export const setOnline = (is: boolean) => online.set(is)
export const isOnline = online.get
export const useOnline = online.use
