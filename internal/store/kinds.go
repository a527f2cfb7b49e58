package store

import (
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
)

// objects say how the objects of each kind are kept: their table, what they are
// called, and where each of their fields stands. What is written, undone, moved
// with a zone and checked goes by this; a test holds it to the kinds that the
// core declares and to the schema.
var objects []object

func init() { // it names what goes by it
	objects = []object{
		{
			Kind: decide.Conversation.Kind, table: "conversations", title: "CASE WHEN working_title <> '' THEN working_title ELSE subject END",
			fields: []binding{
				special(decide.Conversation.Place, placeField), special(decide.Conversation.Return, returnField), special(decide.Conversation.Back, backField).orEach(eachBack),
				column(decide.Conversation.PutOffs, "put_offs"), column(decide.Conversation.Decided, "decided"), special(decide.Conversation.Star, starField),
				column(decide.Conversation.Priority, "priority"), special(decide.Conversation.Redirect, redirectField), column(decide.Conversation.Apart, "apart"),
				special(decide.Conversation.Note, findable("note")), column(decide.Conversation.Quiet, "quiet"), special(decide.Conversation.WorkingTitle, findable("working_title")),
				{Named: decide.Conversation.Labels.Named, write: labelField},
			},
			moments: []momentColumn{{table: "returns", id: "conversation_id", value: "value", path: "$.when", instant: "due"}},
		},
		{
			Kind: kinds.FollowUp.Kind, table: "followups", title: "title",
			fields: []binding{
				column(kinds.FollowUp.Alive, "alive"), column(kinds.FollowUp.Title, "title"), column(kinds.FollowUp.Notes, "notes"),
				moment(kinds.FollowUp.Start, "start", ""), moment(kinds.FollowUp.Due, "due", "due_at"), column(kinds.FollowUp.Priority, "priority"),
				special(kinds.FollowUp.Status, statusField), column(kinds.FollowUp.Estimate, "estimate"), column(kinds.FollowUp.Project, "project"),
				column(kinds.FollowUp.Context, "context"), column(kinds.FollowUp.Assignee, "assignee"), column(kinds.FollowUp.Stage, "stage_id"),
				asJSON(kinds.FollowUp.Recurs, "recurs"), asJSON(kinds.FollowUp.Checklist, "checklist"),
			},
		},
		{
			Kind: kinds.Reminder.Kind, table: "reminders", title: "(SELECT title FROM followups f WHERE f.id = followup_id)",
			fields: []binding{column(kinds.Reminder.Alive, "alive"), column(kinds.Reminder.State, "state"), moment(kinds.Reminder.Moment, "moment", "at")},
		},
		{
			Kind: kinds.Stage.Kind, table: "stages", title: "name",
			fields: []binding{
				column(kinds.Stage.Alive, "alive"), column(kinds.Stage.Name, "name"), column(kinds.Stage.Colour, "colour"), column(kinds.Stage.Shape, "shape"),
				column(kinds.Stage.Position, "position"), column(kinds.Stage.Most, "most"),
			},
		},
		{
			Kind: kinds.Filter.Kind, table: "kept_filters", title: "name",
			fields: []binding{column(kinds.Filter.Alive, "alive"), column(kinds.Filter.Name, "name"), asJSON(kinds.Filter.Value, "value")},
		},
		{
			Kind: kinds.Label.Kind, table: "labels", title: "name",
			fields: []binding{
				column(kinds.Label.Alive, "alive"), column(kinds.Label.Name, "name"), column(kinds.Label.Colour, "colour"), column(kinds.Label.Shape, "shape"),
			},
		},
		{
			Kind: kinds.Search.Kind, table: "kept_searches", title: "name",
			fields: []binding{
				column(kinds.Search.Alive, "alive"), column(kinds.Search.Name, "name"), column(kinds.Search.Query, "query"), column(kinds.Search.Within, "within"),
			},
		},
		{
			Kind: kinds.Appointment.Kind, table: "appointments", title: "title",
			fields: []binding{
				column(kinds.Appointment.Alive, "alive"), column(kinds.Appointment.Title, "title"), column(kinds.Appointment.Place, "place"),
				column(kinds.Appointment.Notes, "notes"), fixedMoment(kinds.Appointment.Start, "start", "start_at"), column(kinds.Appointment.End, "end_at"),
				column(kinds.Appointment.Free, "free"), column(kinds.Appointment.Cancelled, "cancelled"), column(kinds.Appointment.Sequence, "sequence"),
				asJSON(kinds.Appointment.Attendees, "attendees"), column(kinds.Appointment.Reply, "reply"), column(kinds.Appointment.Remind, "remind"),
				column(kinds.Appointment.RemindState, "remind_state"),
			},
		},
		{
			Kind: kinds.Series.Kind, table: "series", title: "json_extract(value, '$.Title')",
			fields: []binding{column(kinds.Series.Alive, "alive")},
		},
		{
			Kind: kinds.Expectation.Kind, table: "expectations", title: "(SELECT subject FROM conversations c WHERE c.id = conversation_id)",
			fields: []binding{
				column(kinds.Expectation.Alive, "alive"), column(kinds.Expectation.State, "state"), column(kinds.Expectation.Late, "late"),
				moment(kinds.Expectation.Until, "until", "until_at"), asJSON(kinds.Expectation.Answered, "answered"), column(kinds.Expectation.MetBy, "met_by"),
				column(kinds.Expectation.Offered, "offered"), column(kinds.Expectation.Away, "away"), column(kinds.Expectation.AwayUntil, "away_until"),
				column(kinds.Expectation.Conversation, "conversation_id"),
			},
		},
		{
			Kind: kinds.Letter.Kind, table: "letters", title: "subject",
			fields: []binding{special(kinds.Letter.Conversation, letterConversationField), column(kinds.Letter.ReadReceipt, "receipt"), special(kinds.Letter.Sort, sortField)},
		},
		{
			Kind: kinds.Sender.Kind, table: "senders", title: "email",
			fields: []binding{column(kinds.Sender.Pictures, "pictures")},
		},
		{
			Kind: kinds.Draft.Kind, table: "drafts", id: "number",
			fields: []binding{column(kinds.Draft.Alive, "alive")},
		},
		{
			Kind: kinds.Outbox.Kind, table: "outbox", title: "subject",
			fields: []binding{column(kinds.Outbox.State, "state"), column(kinds.Outbox.SendAt, "send_at")},
		},
		{
			Kind: kinds.Hold.Kind, table: "holds",
			fields:  []binding{column(kinds.Hold.Alive, "alive"), column(kinds.Hold.EndedAt, "ended_at")},
			moments: []momentColumn{{value: "until", instant: "until_at"}},
		},
		{
			Kind: kinds.Through.Kind, table: "let_through", title: "value",
			fields:  []binding{column(kinds.Through.Alive, "alive")},
			moments: []momentColumn{{value: "until", instant: "until_at"}},
		},
		{
			Kind: kinds.Account.Kind, table: "accounts", title: "address",
			fields: []binding{
				column(kinds.Account.Alive, "alive"), column(kinds.Account.Name, "name"), column(kinds.Account.Label, "label"),
				column(kinds.Account.Signature, "signature"), column(kinds.Account.Colour, "colour"), column(kinds.Account.Shape, "shape"),
				column(kinds.Account.Position, "position"), column(kinds.Account.PlanID, "plan_id"), column(kinds.Account.Markdown, "markdown"), column(kinds.Account.SizeLimit, "size_limit"),
				asJSON(kinds.Account.Signatures, "signatures"), asJSON(kinds.Account.SendAs, "send_as"), asJSON(kinds.Account.Away, "away"),
			},
		},
		{
			Kind: kinds.Template.Kind, table: "templates", title: "name",
			fields: []binding{
				column(kinds.Template.Alive, "alive"), column(kinds.Template.Name, "name"), column(kinds.Template.Subject, "subject"),
				column(kinds.Template.Text, "text"), column(kinds.Template.Markdown, "markdown"),
			},
		},
		{
			Kind: kinds.ReceiverGroup.Kind, table: "receiver_groups", title: "name",
			fields: []binding{
				column(kinds.ReceiverGroup.Alive, "alive"), column(kinds.ReceiverGroup.Name, "name"), asJSON(kinds.ReceiverGroup.Members, "members"),
			},
		},
		{
			Kind: kinds.Contact.Kind, table: "contacts", title: "name",
			fields: []binding{
				column(kinds.Contact.Alive, "alive"), column(kinds.Contact.Name, "name"), asJSON(kinds.Contact.Emails, "emails"), asJSON(kinds.Contact.Phones, "phones"),
				column(kinds.Contact.Org, "org"), column(kinds.Contact.Note, "note"),
			},
		},
		{
			Kind: kinds.KeptFile.Kind, table: "kept_files", title: "(SELECT name FROM attachments a WHERE a.id = attachment)",
			fields: []binding{column(kinds.KeptFile.Alive, "alive"), column(kinds.KeptFile.Conversation, "conversation_id")},
		},
		{
			Kind: kinds.Saving.Kind, table: "savings", title: "path",
			fields: []binding{column(kinds.Saving.Alive, "alive")},
		},
		{
			Kind: kinds.Sitting.Kind, table: "sittings", title: "''",
			fields: []binding{
				column(kinds.Sitting.Alive, "alive"), column(kinds.Sitting.Until, "until_at"), column(kinds.Sitting.Ended, "ended_at"), asJSON(kinds.Sitting.Skipped, "skipped"),
			},
		},
		{
			Kind: kinds.Routine.Kind, table: "routines", title: "name",
			fields: []binding{
				column(kinds.Routine.Alive, "alive"), column(kinds.Routine.Name, "name"), column(kinds.Routine.Key, "key"), column(kinds.Routine.Position, "position"),
				asJSON(kinds.Routine.Steps, "steps"),
			},
		},
		{
			Kind: kinds.Rule.Kind, table: "rules", title: "name",
			fields: []binding{
				column(kinds.Rule.Alive, "alive"), column(kinds.Rule.Name, "name"), column(kinds.Rule.Position, "position"), asJSON(kinds.Rule.Conditions, "conditions"),
				asJSON(kinds.Rule.Steps, "steps"), column(kinds.Rule.Stop, "stop"), column(kinds.Rule.Off, "off"), column(kinds.Rule.People, "people"), moment(kinds.Rule.Until, "until", ""),
				column(kinds.Rule.Said, "said"),
			},
		},
		{
			Kind: kinds.Spot.Kind, table: "spots", title: "name",
			fields: []binding{column(kinds.Spot.Alive, "alive"), column(kinds.Spot.Name, "name")},
		},
		{
			Kind: kinds.Correction.Kind, table: "corrections", title: "value",
			fields: []binding{column(kinds.Correction.Alive, "alive")},
		},
		{
			Kind: kinds.Person.Kind, table: "people", title: "name", people: true,
			fields: []binding{
				special(kinds.Person.Zone, zoneField), column(kinds.Person.WeekStart, "week_start"), column(kinds.Person.DayTurn, "day_turn"),
				column(kinds.Person.DayStart, "day_start"), column(kinds.Person.DayEnd, "day_end"), column(kinds.Person.Evening, "evening"),
				column(kinds.Person.Workdays, "workdays"), column(kinds.Person.MonthFirst, "month_first"), column(kinds.Person.NamedTimes, "named_times"),
				column(kinds.Person.Share, "share"), column(kinds.Person.SendDelay, "send_delay"), column(kinds.Person.Spot, "spot_id"),
				column(kinds.Person.Weights, "weights"), column(kinds.Person.Intake, "intake"), column(kinds.Person.Feed, "feed"),
				special(kinds.Person.PlanID, planField), column(kinds.Person.HoldingNote, "holding_note"), column(kinds.Person.Notifications, "notices"),
				special(kinds.Person.LookDay, lookField("look_day")), special(kinds.Person.LookCount, lookField("look_count")),
				column(kinds.Person.SortedOut, "sorted_out"), column(kinds.Person.LearnJunk, "learn_junk"), column(kinds.Person.ComeUp, "come_up"),
				column(kinds.Person.Proposed, "proposed"), column(kinds.Person.Backlog, "backlog"),
			},
		},
	}
}

// objectOf is how the objects of a kind are kept; nil for an unknown kind.
func objectOf(kind change.Kind) *object {
	for i := range objects {
		if objects[i].Kind == kind {
			return &objects[i]
		}
	}
	return nil
}
