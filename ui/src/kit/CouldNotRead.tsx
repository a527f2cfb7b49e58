/** Stands where something could not be read: what, why, and another try. */
export function CouldNotRead(props: { what: string; error: Error | null; again: () => unknown }) {
  return (
    <div role="alert" className="p-6 text-ink-2">
      <p className="font-semibold">{props.what} could not be read.</p>
      <p className="py-1">{props.error?.message} Nothing is lost.</p>
      <button className="btn mt-2" onClick={() => void props.again()}>
        Try again
      </button>
    </div>
  )
}
