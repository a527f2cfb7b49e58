package work

import (
	"ebbe.example/ebbe/internal/core/change"
	"ebbe.example/ebbe/internal/core/decide"
	"ebbe.example/ebbe/internal/core/kinds"
)

// Reading names what a page reads and keeps, until it is told that it is stale.
type Reading string

// The readings.
const (
	ReadAccounts     Reading = "accounts"
	ReadAhead        Reading = "ahead"
	ReadBacklog      Reading = "backlog"
	ReadCatchUp      Reading = "catch-up"
	ReadClearing     Reading = "clearing"
	ReadContacts     Reading = "contacts"
	ReadConversation Reading = "conversation"
	ReadCorrections  Reading = "corrections"
	ReadDay          Reading = "day"
	ReadDelivery     Reading = "delivery"
	ReadDrafts       Reading = "drafts"
	ReadFirstSorted  Reading = "first-sorted"
	ReadFollowUps    Reading = "follow-ups"
	ReadGroups       Reading = "groups"
	ReadImports      Reading = "imports"
	ReadJunk         Reading = "junk"
	ReadJournal      Reading = "journal"
	ReadLabels       Reading = "labels"
	ReadLearned      Reading = "learned"
	ReadLetter       Reading = "letter"
	ReadList         Reading = "list"
	ReadOverview     Reading = "overview"
	ReadPhrase       Reading = "phrase"
	ReadRang         Reading = "rang"
	ReadReplies      Reading = "replies"
	ReadRoutines     Reading = "routines"
	ReadRules        Reading = "rules"
	ReadSearches     Reading = "searches"
	ReadSettings     Reading = "settings"
	ReadShallows     Reading = "shallows"
	ReadSitting      Reading = "sitting"
	ReadSpots        Reading = "spots"
	ReadTemplates    Reading = "templates"
	ReadWaiting      Reading = "waiting"
)

// Readings are all of them.
var Readings = []Reading{
	ReadAccounts, ReadAhead, ReadBacklog, ReadCatchUp, ReadClearing, ReadContacts, ReadConversation, ReadCorrections, ReadDay, ReadDelivery, ReadDrafts, ReadFirstSorted, ReadFollowUps, ReadGroups, ReadImports, ReadJunk, ReadJournal, ReadLabels,
	ReadLearned, ReadLetter, ReadList, ReadOverview, ReadPhrase, ReadRang, ReadReplies, ReadRoutines, ReadRules, ReadSearches, ReadSettings, ReadShallows, ReadSitting, ReadSpots, ReadTemplates, ReadWaiting,
}

// stale says what becomes stale when an object of a kind changes. A test holds it
// to the kinds that there are.
var stale = map[change.Kind][]Reading{
	decide.Conversation.Kind: {
		ReadList, ReadConversation, ReadReplies, ReadOverview, ReadDay, ReadAhead, ReadLabels, ReadSpots, ReadCatchUp, ReadShallows, ReadGroups, ReadJunk, ReadSitting, ReadBacklog, ReadSearches, ReadContacts,
	},
	kinds.Letter.Kind:        {ReadConversation, ReadList, ReadShallows, ReadGroups, ReadFirstSorted},
	kinds.Correction.Kind:    {ReadCorrections, ReadClearing, ReadConversation, ReadContacts},
	kinds.FollowUp.Kind:      {ReadFollowUps, ReadOverview, ReadDay, ReadAhead, ReadList, ReadConversation},
	kinds.Stage.Kind:         {ReadFollowUps},
	kinds.Filter.Kind:        {ReadFollowUps},
	kinds.Search.Kind:        {ReadSearches},
	kinds.Label.Kind:         {ReadLabels},
	kinds.Reminder.Kind:      {ReadFollowUps, ReadOverview, ReadAhead, ReadDay, ReadRang},
	kinds.Expectation.Kind:   {ReadContacts, ReadWaiting, ReadOverview, ReadAhead, ReadDay, ReadConversation, ReadList},
	kinds.Appointment.Kind:   {ReadContacts, ReadAhead, ReadDay, ReadOverview, ReadPhrase, ReadConversation, ReadLetter, ReadFollowUps},
	kinds.Series.Kind:        {ReadAhead, ReadDay},
	kinds.Outbox.Kind:        {ReadOverview, ReadConversation},
	kinds.Draft.Kind:         {ReadDrafts, ReadOverview, ReadConversation},
	kinds.Hold.Kind:          {ReadOverview, ReadDay, ReadDelivery, ReadPhrase},
	kinds.Through.Kind:       {ReadDelivery, ReadContacts},
	kinds.Account.Kind:       {ReadAccounts, ReadDelivery, ReadOverview, ReadList, ReadConversation, ReadGroups},
	kinds.Sender.Kind:        {ReadConversation, ReadLetter},
	kinds.Template.Kind:      {ReadTemplates},
	kinds.ReceiverGroup.Kind: {ReadTemplates, ReadContacts},
	kinds.Contact.Kind:       {ReadContacts},
	kinds.KeptFile.Kind:      {ReadTemplates, ReadConversation},
	kinds.Saving.Kind:        {ReadRules},
	kinds.Sitting.Kind:       {ReadSitting},
	kinds.Routine.Kind:       {ReadRoutines, ReadConversation},
	kinds.Rule.Kind:          {ReadRules},
	kinds.Spot.Kind:          {ReadSpots, ReadPhrase, ReadAhead, ReadList, ReadConversation},
	kinds.Person.Kind: {
		ReadSettings, ReadDelivery, ReadSpots, ReadPhrase, ReadOverview, ReadDay, ReadAhead, ReadWaiting, ReadFollowUps, ReadList, ReadConversation, ReadShallows, ReadJunk, ReadRules, ReadBacklog,
	},
}

// bySteps are stale after any step: it is in the Journal, and undone next.
var bySteps = []Reading{ReadJournal, ReadOverview}

// StaleBy is what becomes stale when an object of a kind changes.
func StaleBy(kind change.Kind) []Reading { return stale[kind] }
