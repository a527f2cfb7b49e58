/** What can be made of a stretch of text in Markdown. */
export type Mark = 'strong' | 'em' | 'list' | 'numbers' | 'quote' | 'link' | 'code' | 'table'

/** Writes over what is selected in the field, so that its own undo takes it back. */
function write(field: HTMLTextAreaElement, text: string) {
  if (document.execCommand('insertText', false, text)) return
  field.setRangeText(text, field.selectionStart, field.selectionEnd, 'end')
  field.dispatchEvent(new Event('input', { bubbles: true }))
}

/** Gives the field the focus, and the page's selection, which may be elsewhere still. */
function take(field: HTMLTextAreaElement) {
  const { selectionStart, selectionEnd } = field
  document.getSelection()?.removeAllRanges()
  field.focus()
  field.setSelectionRange(selectionStart, selectionEnd)
}

/** Puts text in the place of what is selected; on a line of its own, where that is meant. */
export function insert(field: HTMLTextAreaElement, text: string, ownLine: boolean) {
  take(field)
  const before = field.value.slice(0, field.selectionStart)
  const start = ownLine && before !== '' && !before.endsWith('\n') ? '\n' : ''
  write(field, start + text)
}

const around: Partial<Record<Mark, [string, string]>> = { strong: ['**', '**'], em: ['*', '*'], code: ['`', '`'] }
const before: Partial<Record<Mark, (n: number) => string>> = {
  list: () => '- ',
  numbers: (n) => `${n + 1}. `,
  quote: () => '> ',
}

/** Marks what is selected, or the word, line or place where the cursor is. */
export function setMarks(field: HTMLTextAreaElement, mark: Mark) {
  take(field)
  const { selectionStart: from, selectionEnd: to, value } = field
  const some = value.slice(from, to)
  const put = (text: string, start: number, end: number) => {
    write(field, text)
    field.setSelectionRange(from + start, from + end)
  }
  const signs = around[mark]
  const line = before[mark]
  if (signs) {
    const [a, b] = mark === 'code' && some.includes('\n') ? ['```\n', '\n```'] : signs
    put(a + some + b, a.length, a.length + some.length)
  } else if (line) {
    const first = value.lastIndexOf('\n', from - 1) + 1
    field.setSelectionRange(first, to)
    const lines = value.slice(first, to).split('\n')
    write(field, lines.map((l, n) => line(n) + l).join('\n'))
  } else if (mark === 'link') {
    const url = /^https?:\S+$/.test(some)
    put(url ? `[](${some})` : `[${some}](https://)`, url ? 1 : some.length + 3, url ? 1 : some.length + 11)
  } else {
    const table = '| a | b |\n|---|---|\n|   |   |\n'
    insert(field, table, true)
  }
}
