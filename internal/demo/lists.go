package demo

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/post"
	"ebbe.example/ebbe/internal/postoffice/listserver"
)

// Lists are those of the demo that can be left: one obeys at once, one after a week, one never.
var Lists = []listserver.List{
	{Name: "Moss & Lichen", Address: "letters@moss-lichen.example", OneClick: true, Issues: []listserver.Issue{
		{Subject: "The quiet months", Text: "What mosses do while nobody looks.\n\nThree walks for December, all of them flat."},
		{Subject: "A wall in Bergen", Text: "Eleven species on one wall, and a map of it."},
	}},
	{Name: "Shelf and Bracket", Address: "offers@shelf-bracket.example", OneClick: true, After: 7 * 24 * time.Hour, Issues: []listserver.Issue{
		{Subject: "Staging benches, a third off", Text: "Galvanised, in four lengths. Until Sunday."},
		{Subject: "Last days of a third off", Text: "The same benches. Until Monday, after all."},
	}},
	{Name: "Fair Weather Days", Address: "days@fair-weather.example", Never: true, Issues: []listserver.Issue{
		{Subject: "Team days under palms", Text: "Your people deserve a beach. We have one left."},
		{Subject: "Still thinking about palms?", Text: "The beach is still there."},
	}},
}

const listsFact = "demo issues of lists"

// sendLists sends the next issue of every list that still sends, over SMTP, and says how many.
func (d *Demo) sendLists(ctx context.Context) (string, error) {
	if d.ListServer == nil {
		return "", fmt.Errorf("no lists are served")
	}
	text, err := d.app.Store.Fact(ctx, listsFact)
	if err != nil {
		return "", err
	}
	n, _ := strconv.Atoi(text) // "" is none so far
	if err := d.app.Store.SetFact(ctx, listsFact, strconv.Itoa(n+1)); err != nil {
		return "", err
	}
	var sent []string
	for _, l := range Lists {
		if !d.ListServer.Sends(l) {
			continue
		}
		raw, err := d.ListServer.Letter(l, ines.Email, n)
		if err != nil {
			return "", err
		}
		if _, err := (post.Relay{Addr: d.Office, Timeout: 10 * time.Second}).Send(ctx, post.Envelope{From: "bounces@" + l.Domain(), To: []string{ines.Email}}, raw); err != nil {
			return "", err
		}
		sent = append(sent, l.Name)
	}
	if len(sent) == 0 {
		return "nothing: every list was left", nil
	}
	return "new of " + strings.Join(sent, ", "), nil
}
