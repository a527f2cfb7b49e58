import type { components, paths } from '../api/schema'
import type { RowKey } from './hiding'
import type { Target } from './listing'

/** What a person can do: for each command the operation of the API that carries
 * it out. What goes with it is typed from the API's description. */
export const operations = {
  absence: 'POST /api/accounts/{id}/absence',
  'add-through': 'POST /api/through',
  ahead: 'POST /api/ahead',
  annotate: 'PATCH /api/conversations/{id}',
  'answer-invitation': 'POST /api/letters/{id}/invitation',
  'be-at': 'POST /api/whereabouts',
  'begin-sitting': 'POST /api/sittings',
  'cancel-appointment': 'POST /api/appointments/{id}/cancel',
  'capture-follow-up': 'POST /api/capture',
  decide: 'POST /api/decisions',
  'new-contact': 'POST /api/contacts',
  'edit-contact': 'PATCH /api/contacts/{id}',
  'drop-contact': 'POST /api/contacts/{id}/drop',
  'take-contacts': 'POST /api/contacts/file',
  erase: 'POST /api/contacts/erase',
  'drop-draft': 'POST /api/drafts/{id}/drop',
  'drop-label': 'POST /api/labels/drop',
  'look-of-label': 'POST /api/labels/look',
  'rename-label': 'POST /api/labels/rename',
  'drop-search': 'POST /api/searches/{id}/drop',
  'drop-follow-filter': 'POST /api/filters/{id}/drop',
  'edit-account': 'PATCH /api/accounts/{id}',
  'edit-appointment': 'PATCH /api/appointments/{id}',
  'edit-follow-stage': 'PATCH /api/stages/{id}',
  'edit-follow-up': 'PATCH /api/follow-ups/{id}',
  'edit-follow-ups': 'PATCH /api/follow-ups',
  'edit-group': 'PATCH /api/groups/{id}',
  'apply-rule': 'POST /api/rules/{id}/apply',
  'decline-rule': 'POST /api/rules/declined',
  'edit-rule': 'PATCH /api/rules/{id}',
  'edit-routine': 'PATCH /api/routines/{id}',
  'edit-sitting': 'PATCH /api/sittings/{id}',
  'edit-spot': 'PATCH /api/spots/{id}',
  'edit-template': 'PATCH /api/templates/{id}',
  'end-correction': 'POST /api/corrections/{id}/end',
  'end-through': 'POST /api/through/{id}/end',
  'fit-follow-ups': 'POST /api/fit',
  flag: 'POST /api/flags',
  forget: 'POST /api/conversations/{id}/forget',
  hold: 'POST /api/hold',
  'holding-note': 'POST /api/holding-note',
  'import-follow-ups': 'POST /api/tasks',
  'keep-search': 'POST /api/searches',
  'keep-follow-filter': 'POST /api/filters',
  'learn-junk': 'POST /api/junk',
  'let-in': 'POST /api/let-in',
  'let-through': 'POST /api/through/{id}/let-in',
  'look-around': 'POST /api/made-up',
  mark: 'POST /api/marks',
  matters: 'POST /api/matters',
  'new-account': 'POST /api/accounts',
  'new-appointment': 'POST /api/appointments',
  'new-follow-stage': 'POST /api/stages',
  'new-follow-up': 'POST /api/follow-ups',
  'new-group': 'POST /api/groups',
  'new-rule': 'POST /api/rules',
  'new-routine': 'POST /api/routines',
  'new-spot': 'POST /api/spots',
  'new-template': 'POST /api/templates',
  notifications: 'POST /api/notifications',
  'pass-over': 'POST /api/kinds/pass-over',
  pictures: 'POST /api/senders/pictures',
  'plan-backlog': 'POST /api/backlog',
  'put-plan': 'POST /api/plan',
  'quiet-appointment': 'POST /api/appointments/{id}/seen',
  'read-script': 'POST /api/rules/script',
  receipt: 'POST /api/letters/{id}/receipt',
  redo: 'POST /api/redo',
  reminder: 'POST /api/reminders/{id}',
  'rename-follow-ups': 'POST /api/names',
  'rename-search': 'PATCH /api/searches/{id}',
  'renew-feed': 'POST /api/feed',
  'renew-follow-intake': 'POST /api/intake',
  refuse: 'POST /api/refused',
  send: 'POST /api/letters',
  settings: 'PATCH /api/settings',
  'run-routine': 'POST /api/routines/{id}/run',
  'skip-follow-up': 'POST /api/follow-ups/{id}/skip',
  sort: 'POST /api/sorted',
  'sort-before': 'POST /api/sorted/before',
  'sort-out': 'POST /api/kinds',
  split: 'POST /api/letters/{id}/split',
  'surface-at': 'POST /api/kinds/rounds',
  'throw-away': 'POST /api/made-up/drop',
  'undo-rule': 'POST /api/rules/{id}/undo',
  undo: 'POST /api/undo',
  unsubscribe: 'POST /api/letters/{id}/unsubscribe',
  'wait-follow-up': 'POST /api/follow-ups/{id}/wait',
  waiting: 'PATCH /api/waiting/{id}',
  'weigh-follow-ups': 'PUT /api/weights',
} as const

export type Name = keyof typeof operations
type At<N extends Name> = (typeof operations)[N] extends `${infer M} ${infer P extends keyof paths & string}`
  ? paths[P][Lowercase<M> & keyof paths[P]]
  : never
type Sent<N extends Name> =
  At<N> extends { requestBody: { content: { 'application/json': infer B } } } ? Omit<B, 'command'> : never
type Seen = components['schemas']['Seen']
/** In the page, letters that are named say where they stood, too. */
type Named<B> = 'on' extends keyof B
  ? B extends { on: Seen[] }
    ? Omit<B, 'on'> & { on: Target[] }
    : B extends { on?: Seen[] }
      ? Omit<B, 'on'> & { on?: Target[] }
      : B
  : B
/** What goes with a command. */
export type Body<N extends Name> = Named<Sent<N>>
type Path<N extends Name> = At<N> extends { parameters: { path: { id: infer I } } } ? { id: I } : object

/** A command as the page keeps it until the server has it. Those that hide
 * rows say which. */
export type Command = { [N in Name]: { path: N; body: Body<N>; hides?: RowKey[] } & Path<N> }[Name]
