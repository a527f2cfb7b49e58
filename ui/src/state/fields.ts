import type { Writing } from '../api/client'

/** The fields of a letter that still stand in it. Whether it goes with them is the core's to
 * say. */
export const fieldsIn = (w: Writing) =>
  (w.fields ?? []).filter((name) => `${w.subject}\n${w.text}`.includes(`{${name}}`))

/** A letter in which a field has its value. */
export const filledIn = (w: Writing, name: string, value: string): Partial<Writing> => ({
  text: w.text.replaceAll(`{${name}}`, () => value),
  subject: w.subject.replaceAll(`{${name}}`, () => value),
})
