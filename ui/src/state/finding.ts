/** What finds the letters under a label. */
export const labelled = (label: string) => (/[\s:]/.test(label) ? `label:"${label}"` : `label:${label}`)
