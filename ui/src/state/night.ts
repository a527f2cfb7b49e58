import { kept } from './store'

/** Light, night, or as the system says. */
export const look = kept<'system' | 'light' | 'night'>('look', 'system')

export function followLook() {
  const dark = matchMedia('(prefers-color-scheme: dark)')
  const apply = () => {
    const night = look.get() === 'night' || (look.get() === 'system' && dark.matches)
    document.documentElement.dataset['night'] = night ? 'yes' : 'no'
  }
  dark.addEventListener('change', apply)
  apply()
  return apply
}
