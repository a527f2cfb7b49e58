import type { FollowUpFields } from './commands'

/** The priorities of follow-ups, the most urgent first. */
export const priorities: readonly NonNullable<FollowUpFields['priority']>[] = ['urgent', 'high', 'normal', 'low']
