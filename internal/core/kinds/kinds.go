// Package kinds declares the kinds of objects that commands change, and their
// fields, but for conversations, which decide declares. Everything that goes by
// kinds and fields is made from these: how they are stored and undone, what
// changes with a zone, what open pages are told.
package kinds

import (
	"encoding/json"

	"ebbe.example/ebbe/internal/core/autoanswer"
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/followup"
	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/meeting"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/core/sending"
	"ebbe.example/ebbe/internal/core/sorting"
	"ebbe.example/ebbe/internal/core/waiting"
	"ebbe.example/ebbe/internal/core/when"
)

// Alive is the field that brings what was made to life, and puts it to sleep
// again when that is undone.
type alive = change.Field[bool]

// FollowUp are the fields of follow-ups.
var FollowUp = change.Declare[struct {
	change.Kind
	Alive     alive
	Title     change.Field[string]
	Notes     change.Field[string]
	Start     change.Field[*when.Moment]
	Due       change.Field[*when.Moment]
	Priority  change.Field[followup.Priority]
	Status    change.Field[followup.Status]
	Estimate  change.Field[int] // minutes
	Project   change.Field[string]
	Context   change.Field[string]
	Assignee  change.Field[string]
	Stage     change.Field[int64]
	Recurs    change.Field[*followup.Recurrence]
	Checklist change.Field[[]followup.Item]
}]("followup")

// Reminder are the fields of reminders.
var Reminder = change.Declare[struct {
	change.Kind
	Alive  alive
	State  change.Field[string]
	Moment change.Field[when.Moment]
}]("reminder")

// Stage are the fields of a person's own lanes.
var Stage = change.Declare[struct {
	change.Kind
	Alive    alive
	Name     change.Field[string]
	Colour   change.Field[string]
	Shape    change.Field[string]
	Position change.Field[int]
	Most     change.Field[int]
}]("stage")

// Filter are the fields of kept filters of the board.
var Filter = change.Declare[struct {
	change.Kind
	Alive alive
	Name  change.Field[string]
	Value change.Field[json.RawMessage]
}]("filter")

// Label are the fields of how labels look.
var Label = change.Declare[struct {
	change.Kind
	Alive  alive
	Name   change.Field[string]
	Colour change.Field[string]
	Shape  change.Field[string]
}]("label")

// Search are the fields of kept searches.
var Search = change.Declare[struct {
	change.Kind
	Alive  alive
	Name   change.Field[string]
	Query  change.Field[string]
	Within change.Field[string]
}]("search")

// Appointment are the fields of appointments.
var Appointment = change.Declare[struct {
	change.Kind
	Alive       alive
	Title       change.Field[string]
	Place       change.Field[string]
	Notes       change.Field[string]
	Start       change.Field[when.Moment]
	End         change.Field[int64] // milliseconds since 1970
	Free        change.Field[bool]
	Cancelled   change.Field[bool]
	Sequence    change.Field[int]
	Attendees   change.Field[[]meeting.Attendee]
	Reply       change.Field[meeting.Reply]
	Remind      change.Field[int] // minutes before; -1 for never
	RemindState change.Field[string]
}]("appointment")

// Series are the fields of recurring appointments.
var Series = change.Declare[struct {
	change.Kind
	Alive alive
}]("series")

// Expectation are the fields of answers that are waited for.
var Expectation = change.Declare[struct {
	change.Kind
	Alive        alive
	State        change.Field[waiting.State]
	Late         change.Field[bool]
	Until        change.Field[*when.Moment]
	Answered     change.Field[[]string]
	MetBy        change.Field[*int64]
	Offered      change.Field[*int64]
	Away         change.Field[string]
	AwayUntil    change.Field[string]
	Conversation change.Field[int64]
}]("expectation")

// Letter are the fields of letters.
var Letter = change.Declare[struct {
	change.Kind
	Conversation change.Field[int64]
	ReadReceipt  change.Field[string] `field:"receipt"`
	Sort         change.Field[sorting.Verdict]
}]("letter")

// Sender are the fields of what is settled about somebody who writes.
var Sender = change.Declare[struct {
	change.Kind
	Pictures change.Field[bool]
}]("sender")

// Draft are the fields of drafts.
var Draft = change.Declare[struct {
	change.Kind
	Alive alive
}]("draft")

// Outbox are the fields of letters in the outbox.
var Outbox = change.Declare[struct {
	change.Kind
	State  change.Field[sending.Stage]
	SendAt change.Field[int64] `field:"sendAt"` // milliseconds since 1970
}]("outbox")

// Hold are the fields of holds and openings of delivery.
var Hold = change.Declare[struct {
	change.Kind
	Alive   alive
	EndedAt change.Field[*int64] // milliseconds since 1970
}]("hold")

// Through are the fields of the let-through list.
var Through = change.Declare[struct {
	change.Kind
	Alive alive
}]("through")

// Account are the fields of accounts.
var Account = change.Declare[struct {
	change.Kind
	Alive      alive
	Name       change.Field[string]
	Label      change.Field[string]
	Signature  change.Field[string]
	Colour     change.Field[string]
	Shape      change.Field[string]
	Position   change.Field[int]
	PlanID     change.Field[int64] `field:"planId"`
	Markdown   change.Field[bool]
	SizeLimit  change.Field[int64]              `field:"sizeLimit"`
	Signatures change.Field[[]letter.Signature] // beside the usual one
	SendAs     change.Field[[]letter.Address]   `field:"sendAs"`
	Away       change.Field[*autoanswer.Absence]
}]("account")

// Template are the fields of texts that are used again and again.
var Template = change.Declare[struct {
	change.Kind
	Alive    alive
	Name     change.Field[string]
	Subject  change.Field[string]
	Text     change.Field[string]
	Markdown change.Field[bool]
}]("template")

// ReceiverGroup are the fields of groups of receivers.
var ReceiverGroup = change.Declare[struct {
	change.Kind
	Alive   alive
	Name    change.Field[string]
	Members change.Field[[]string]
}]("receivers")

// Contact are the fields of what is written down of correspondents.
var Contact = change.Declare[struct {
	change.Kind
	Alive  alive
	Name   change.Field[string]
	Emails change.Field[[]string]
	Phones change.Field[[]string]
	Org    change.Field[string]
	Note   change.Field[string]
}]("contact")

// KeptFile are the fields of files that were added to a conversation, or go along with a
// template.
var KeptFile = change.Declare[struct {
	change.Kind
	Alive        alive
	Conversation change.Field[int64]
}]("file")

// Saving are the fields of files that a rule saves into a folder.
var Saving = change.Declare[struct {
	change.Kind
	Alive alive
}]("saving")

// Sitting are the fields of sittings.
var Sitting = change.Declare[struct {
	change.Kind
	Alive   alive
	Until   change.Field[*int64] // milliseconds since 1970
	Ended   change.Field[*int64]
	Skipped change.Field[[]int64]
}]("sitting")

// Rule are the fields of rules.
var Rule = change.Declare[struct {
	change.Kind
	Alive      alive
	Name       change.Field[string]
	Position   change.Field[int]
	Conditions change.Field[rule.Conditions]
	Steps      change.Field[[]routine.Step]
	Stop       change.Field[bool]
	Off        change.Field[bool]
	People     change.Field[bool] // it may send people's letters away
	Until      change.Field[*when.Moment]
	Said       change.Field[string] // what of a script could not be made of it
}]("rule")

// Routine are the fields of routines.
var Routine = change.Declare[struct {
	change.Kind
	Alive    alive
	Name     change.Field[string]
	Key      change.Field[string]
	Position change.Field[int]
	Steps    change.Field[[]routine.Step]
}]("routine")

// Spot are the fields of places where a person may be.
var Spot = change.Declare[struct {
	change.Kind
	Alive alive
	Name  change.Field[string]
}]("spot")

// Person are the settings of a person.
var Person = change.Declare[struct {
	change.Kind
	Zone          change.Field[string]
	WeekStart     change.Field[int]
	DayTurn       change.Field[int] // minutes after midnight, as the next three
	DayStart      change.Field[int]
	DayEnd        change.Field[int]
	Evening       change.Field[int]
	Workdays      change.Field[int]
	MonthFirst    change.Field[bool]
	NamedTimes    change.Field[string]
	Share         change.Field[int]
	SendDelay     change.Field[int] // seconds
	Spot          change.Field[int64]
	Weights       change.Field[string]
	Intake        change.Field[string]
	Feed          change.Field[string]
	PlanID        change.Field[int64] `field:"planId"`
	HoldingNote   change.Field[string]
	Notifications change.Field[string] `field:"notices"`
	LookDay       change.Field[int]
	LookCount     change.Field[int]
	SortedOut     change.Field[string] `field:"sortedOut"`
	LearnJunk     change.Field[bool]   `field:"learnJunk"`
	ComeUp        change.Field[string] `field:"comeUp"` // the kinds that have come up
	Proposed      change.Field[string] // the rules that were proposed, and answered
	Backlog       change.Field[string] // the backlog that is gone through
}]("person")

// Correction are the fields of what moves have taught about senders.
var Correction = change.Declare[struct {
	change.Kind
	Alive alive
}]("correction")
