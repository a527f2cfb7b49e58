/** The name with its mark; short leaves the name out where room is scarce. */
export const Wordmark = ({ short }: { short?: boolean }) => (
  <span className="flex items-center gap-2 text-[20px] font-bold tracking-tight">
    <img src="/mark.svg" alt="" className="size-7" /> <span className={short ? 'max-md:sr-only' : ''}>ebbe</span>
  </span>
)
