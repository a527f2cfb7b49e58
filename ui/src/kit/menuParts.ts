export { DropdownMenu as parts } from 'radix-ui'
