export const Wordmark = () => (
  <span className="flex items-center gap-2 text-[20px] font-bold tracking-tight">
    <img src="/mark.svg" alt="" className="size-7" /> ebbe
  </span>
)
