const names: Record<string, string> = {
  inbox: 'Inbox',
  'follow-ups': 'Follow-ups',
  work: 'Today’s work',
  waiting: 'Waiting',
  ahead: 'Ahead',
  archive: 'Archive',
  drafts: 'Drafts',
  sent: 'Sent',
  bin: 'Bin',
  junk: 'Junk',
  search: 'Find',
  journal: 'Journal',
  files: 'Letters in and out',
  accounts: 'Accounts',
  times: 'Times and places',
  delivery: 'Delivery',
  letter: 'Letter',
}

/** What the view at an address is called. */
export const viewName = (path: string) => names[path.split('/')[1] ?? ''] ?? 'Inbox'
