/** Stands for a dialog that is being fetched, so that no key reaches what lies
 * beneath meanwhile. */
export const Opening = () => <div role="dialog" aria-busy aria-label="Opening" className="sr-only" />
