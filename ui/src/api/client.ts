import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Row = Schemas['Row']
export type News = Schemas['News']
/** What the page reads and keeps, by the first part of its query's key. */
export type Reading = News['stale'][number]
export type Conversation = Schemas['Conversation']
export type Foretold = Schemas['Foretold']
export type Routine = Schemas['RoutineView']
export type Opening = Schemas['Opening']
export type RoutineStep = Schemas['Step']
export type BacklogHeap = Schemas['BacklogHeap']
export type BacklogProgress = Schemas['BacklogProgress']
export type Rules = Schemas['RulesView']
export type Rule = Schemas['RuleView']
export type RuleConditions = Schemas['Conditions']
export type RuleCondition = Schemas['Condition']
export type ProposedRule = Schemas['ProposedRule']
export type Sitting = Schemas['SittingView']
export type Heap = Schemas['Heap']
export type Letter = Schemas['Letter']
export type FollowUp = Schemas['FollowUp']
export type Followed = Schemas['Followed']
export type Board = Schemas['Board']
export type BoardLane = Schemas['BoardLane']
export type BoardFilter = Schemas['Filter']
export type Stage = Schemas['Stage']
export type Chip = Schemas['Chip']
export type CheckItem = Schemas['Item']
export type FitView = Schemas['FitView']
export type Appointment = Schemas['AppointmentView']
export type Weights = Schemas['Weights']
export type Waiting = Schemas['Waiting']
export type Shallows = Schemas['Shallows']
export type Shoal = Schemas['Shoal']
export type ShoalLine = Schemas['ShoalLine']
export type CorrectionView = Schemas['CorrectionView']
export type Overview = Schemas['Overview']
export type NotificationView = Schemas['NotificationView']
export type Day = Schemas['Day']
export type DaySheet = Schemas['DaySheet']
export type Days = Schemas['Days']
export type DaysPart = Schemas['DaysPart']
export type SheetBar = Schemas['SheetBar']
export type LabelView = Schemas['LabelView']
export type LetterFile = Schemas['LetterFile']
export type CorrespondentGroup = Schemas['CorrespondentGroup']
export type CorrespondentRow = Schemas['CorrespondentRow']
export type Correspondent = Schemas['CorrespondentView']
export type ContactView = Schemas['ContactView']
export type Wait = Schemas['CorrespondentWait']
export type KeptSearch = Schemas['KeptSearch']
export type CatchUp = Schemas['CatchUp']
export type Entry = Schemas['Entry']
export type Ahead = Schemas['AheadView']
export type AheadGroup = Schemas['AheadGroup']
export type DayLoad = Schemas['DayLoad']
export type Settings = Schemas['SettingsView']
export type Named = Schemas['Named']
export type SpreadView = Schemas['SpreadView']
export type Writing = Schemas['Writing']
export type AttachedFile = Schemas['AttachedFile']
export type FileView = Schemas['FileView']
export type Ask = Schemas['Ask']
export type Suggestion = Schemas['Suggestion']
export type Template = Schemas['TemplateView']
export type ReceiverGroup = Schemas['ReceiverGroup']
export type KeptFile = Schemas['KeptFile']
export type Doubt = Schemas['Doubt']
export type DraftView = Schemas['DraftView']
export type PhraseView = Schemas['PhraseView']
export type Proposal = Schemas['Proposal']
export type Session = Schemas['SessionView']
export type ImportView = Schemas['ImportView']
export type Account = Schemas['AccountView']
export type Remote = Schemas['RemoteView']
export type ServerAt = Schemas['Server']
export type Tried = Schemas['Tried']
export type InsideLetter = Schemas['InsideLetter']
export type Body = Schemas['Body']
export type Gate = Schemas['GateView']
export type Delivery = Schemas['DeliveryView']
export type Plan = Schemas['Plan']
export type DayPlan = Schemas['DayPlan']
export type Span = Schemas['Span']
export type Replay = Schemas['ReplayView']
export type NextDelivery = Schemas['NextDelivery']
export type Through = Schemas['ThroughView']
export type ThroughFields = Schemas['ThroughFields']
export type HoldingNote = Schemas['Note']
export type Notifications = Schemas['Notifications']
export type NoticeView = Schemas['NotificationView']
export type JournalEntry = Schemas['JournalEntry']

/** The answers that came along with the page, by path. */
const along = new Map<string, unknown>(
  Object.entries(JSON.parse(document.getElementById('first')?.textContent ?? '{}') as object),
)
/** Whether answers came along: what has changed since is not in them. */
export const cameAlong = along.size > 0

/** Gives an answer that came along, once: it is there before anything is drawn. */
export function came<T>(path: string): T | undefined {
  const answer = along.get(path) as T | undefined
  along.delete(path)
  return answer
}
/** From now on everything is asked for: what came along is no longer new. */
export const forgetAlong = () => along.clear()

export const api = createClient<paths>({ baseUrl: '/' })

/** Says with every request as whom this page works, and on which inbox, so that the
 * server refuses what would be done as somebody else. */
export function speakFor(whose: () => { person: number; inbox: number }) {
  api.use({
    onRequest({ request }) {
      const { person, inbox } = whose()
      if (person !== 0) {
        request.headers.set('Ebbe-Person', String(person))
        request.headers.set('Ebbe-Inbox', String(inbox))
      }
      return request
    },
  })
}

/** An error with a text meant for the person. */
export class Trouble extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** What went wrong, for the page to act on. */
    readonly kind = '',
    /** The conversations with which something else can be done. */
    readonly on: number[] = [],
  ) {
    super(message)
  }
}

/** The page can't reach the server; what was done is kept and tried again. */
export class Unreachable extends Error {}

/** What is done with the names of what a command has made stale. */
let heed: (stale: string | null) => void = () => undefined
export const onStale = (fn: typeof heed) => (heed = fn)

/** Gives the data of an answer, or throws what went wrong in words. What the
 * answer makes stale is read again, unless the caller sees to that. */
export async function take<T>(
  call: Promise<{ data?: T; error?: Partial<Schemas['ProblemView']>; response: Response }>,
  stale: (names: string | null) => void = heed,
): Promise<T> {
  let answer
  try {
    answer = await call
  } catch {
    throw new Unreachable('Ebbe can’t be reached.')
  }
  const { data, error, response } = answer
  if (response.ok) {
    stale(response.headers.get('Ebbe-Stale'))
    return data as T
  }
  throw new Trouble(
    error?.detail ?? error?.title ?? 'Something went wrong.',
    response.status,
    error?.kind,
    error?.on ?? undefined,
  )
}

/** What went wrong, for the person to read. */
export const errorText = (e: unknown, otherwise: string) => (e instanceof Error ? e.message : otherwise)

export function newId(): string {
  return crypto.randomUUID()
}
