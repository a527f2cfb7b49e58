package demo

import (
	"time"

	"ebbe.example/ebbe/internal/core/letter"
	"ebbe.example/ebbe/internal/core/when"
	"ebbe.example/ebbe/internal/store"
)

func person(name, email string) letter.Address { return letter.Address{Name: name, Email: email} }

// The people of the demo. Every domain ends in .example.
var (
	ines    = person("Ines Halvorsen", "ines@norrholm.example")
	walks   = person("Norrholm Winter Walks", "walks@norrholm.example")
	private = person("Ines Halvorsen", "ines@halvorsen.example")

	tove       = person("Tove Lindqvist", "tove@norrholm.example")
	henrik     = person("Henrik Aas", "henrik@norrholm.example")
	lise       = person("Lise Bo", "lise@norrholm.example")
	director   = person("Director’s office", "director@norrholm.example")
	climate    = person("Greenhouse climate", "climate@norrholm.example")
	bram       = person("Bram Oosterhuis", "bram@oosterhuis-freight.example")
	maren      = person("Maren Solvik", "maren@solvik-glazing.example")
	health     = person("Port Health Office", "permits@porthealth.example")
	oda        = person("Oda Frisvold", "oda@fjellskolen.example")
	kestrel    = person("Kestrel Print", "proofs@kestrelprint.example")
	seeds      = person("Lund Seeds", "orders@lundseeds.example")
	vera       = person("Vera Nyström", "vera@skog-catering.example")
	anton      = person("Anton Rask", "anton@rask-audit.example")
	signe      = person("Signe Halvorsen", "signe@halvorsen.example")
	choir      = person("Kai Moen", "kai@strandkoret.example")
	society    = person("Bergflora Society", "list@bergflora.example")
	journal    = person("The Glasshouse Letter", "news@glasshouseletter.example")
	postmaster = person("Post office", "postmaster@post.example")
)

var accounts = []store.Account{
	{Address: ines.Email, Name: ines.Name, Label: "Work", Signature: "Ines Halvorsen\nProgrammes, Norrholm Botanical Garden"},
	{Address: walks.Email, Name: walks.Name, Label: "Winter walks", Signature: "The winter walks at Norrholm"},
	{Address: private.Email, Name: private.Name, Label: "Private", Signature: "Ines"},
}

const zoneName = "Europe/Oslo"

func calendar() when.Calendar {
	zone, err := time.LoadLocation(zoneName)
	if err != nil {
		zone = time.UTC
	}
	return when.Standard(zone)
}

// today is the day on which the demo starts, at 08:20.
var today = when.Date{Year: 2026, Month: time.November, Day: 24}
