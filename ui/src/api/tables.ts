// Made by “make types” from the tables of the core; not to be edited.

/** All decisions; those of the deck first, in their order. */
export const decisions = [
  {
    "kind": "answer",
    "name": "Answer",
    "hint": "",
    "key": "1",
    "needs": "letter",
    "deck": true
  },
  {
    "kind": "done",
    "name": "Done",
    "hint": "to the archive",
    "key": "2",
    "needs": "nothing",
    "deck": true
  },
  {
    "kind": "later",
    "name": "Later",
    "hint": "pick a time",
    "key": "3",
    "needs": "time",
    "deck": true
  },
  {
    "kind": "follow-up",
    "name": "Follow up",
    "hint": "",
    "key": "4",
    "needs": "follow-up",
    "deck": true
  },
  {
    "kind": "hand-on",
    "name": "Hand on",
    "hint": "and wait for them",
    "key": "5",
    "needs": "letter",
    "deck": true
  },
  {
    "kind": "file",
    "name": "File",
    "hint": "under a label",
    "key": "6",
    "needs": "labels",
    "deck": true
  },
  {
    "kind": "bin",
    "name": "Bin",
    "hint": "kept for 30 days",
    "key": "7",
    "needs": "nothing",
    "deck": true
  },
  {
    "kind": "inbox",
    "name": "Bring back to the inbox",
    "hint": "back to the inbox",
    "key": "b",
    "needs": "nothing",
    "deck": false
  },
  {
    "kind": "junk",
    "name": "Junk, or not junk",
    "hint": "",
    "key": "m",
    "needs": "nothing",
    "deck": false
  }
] as const

/** The places that have lists, and whether those have views of their own. */
export const places = [
  {
    "place": "inbox",
    "name": "Inbox",
    "where": "in the inbox",
    "back": "",
    "hint": "",
    "empty": "",
    "view": true
  },
  {
    "place": "shallows",
    "name": "Shallows",
    "where": "in the Shallows",
    "back": "",
    "hint": "sorted out of the inbox; nothing here counts for zero",
    "empty": "Nothing is sorted out.",
    "view": false
  },
  {
    "place": "later",
    "name": "Later",
    "where": "put off",
    "back": "To inbox",
    "hint": "",
    "empty": "",
    "view": false
  },
  {
    "place": "archive",
    "name": "Archive",
    "where": "in the archive",
    "back": "To inbox",
    "hint": "decided and kept",
    "empty": "Nothing is archived yet. Done and File bring letters here.",
    "view": true
  },
  {
    "place": "bin",
    "name": "Bin",
    "where": "in the bin",
    "back": "Restore",
    "hint": "kept for 30 days",
    "empty": "The bin is empty.",
    "view": true
  },
  {
    "place": "junk",
    "name": "Junk",
    "where": "in Junk",
    "back": "Not junk",
    "hint": "never brought back by new letters",
    "empty": "No junk.",
    "view": true
  }
] as const
