package demo

import "ebbe.example/ebbe/internal/core/letter"

// current are the letters that stand undecided when the demo begins: days ago
// (in working days) and minutes after midnight say when each came.
type current struct {
	message
	days, minute int
}

func say(from letter.Address, subject, text string) message {
	return message{from: from, to: ines, subject: subject, text: text}
}

func (m message) withFiles(names ...string) message { m.attach = names; return m }
func (m message) asPage() message                   { m.html = true; return m }
func (m message) toWalks() message                  { m.to = walks; return m }
func (m message) toPrivate() message                { m.to = private; return m }

var currents = []current{
	{say(bram, "Crate sizes for the bromeliad loan", "Dear Ines,\n\nThe van is booked and the driver wants the load plan at midday. Can you confirm the four crate sizes and which courier you use for the last leg? If the tall one is over 140 cm we need the larger lift.\n\nCollection stays on Monday 30 November, 07:30, at your east gate.\n\nKind regards,\nBram"), 0, 431},
	{say(health, "Phytosanitary permit NH-2231", "Dear Ms Halvorsen,\n\nForm 7 of your application is missing a signature. Please sign both copies and return them by 1 December, otherwise the inspection moves to January.\n\nThe forms are attached again.\n\nPort Health Office").withFiles("form-7.pdf", "form-7-copy.pdf"), 0, 412},
	{say(oda, "School visit on 8 December", "Hi Ines,\n\nWe are 28 pupils and three adults, and two of the pupils need a step-free way. Is the fern house open to wheelchairs while the orangery is being glazed?\n\nWe could also come on the 10th.\n\nOda Frisvold\nFjellskolen"), 0, 395},
	{say(lise, "Name for the spring exhibition", "All,\n\nI would still go for “Green Hours”. The printer needs the name for the banner this week.\n\nWhat do you think?\n\nLise"), 1, 952},
	{say(kestrel, "Proof ready: winter programme", "Dear Ines,\n\nThe proof of the winter programme is ready. Please approve it or send your corrections by Friday noon so that we can print on Monday.\n\nThe colours on page 3 are a little darker than on your screen.\n\nKestrel Print").withFiles("winter-programme-proof.pdf").asPage(), 1, 871},
	{say(director, "Board paper on seed exchange", "Ines,\n\nThe board meets on 3 December. Please write two pages on the seed exchange with the southern gardens: what it costs, what we get, what happens if we stop. I need it by Thursday.\n\nThank you."), 1, 640},
	{say(maren, "Orangery glazing: revised quote", "Hello Ines,\n\nHere is the revised quote for the south side. The toughened panes went up by four per cent, the labour is as before. Could you accept it before Friday? The factory closes its books then.\n\nI have added the drawing with the new bar spacing.\n\nMaren").withFiles("quote-revised.pdf", "south-side.png"), 1, 590},
	{say(tove, "Guides’ rota for the winter walks", "Hi,\n\nFour guides can do Saturdays, nobody wants the 19th. Would you send me the final list of walks, then I print the rota today?\n\nTove").toWalks(), 0, 455},
	{say(anton, "October invoice 1187", "Dear Ines,\n\nInvoice 1187 of October does not match the order: you ordered 40 bags of grit, the invoice says 44. Which one is right?\n\nI would like to close October this week.\n\nAnton Rask").withFiles("invoice-1187.pdf"), 1, 710},
	{say(vera, "Soup for the walks", "Hello,\n\nWe can bring soup for up to 60 people to the lower pavilion on both Saturdays. Do you want the vegetarian one only, or half and half? I need the number by Wednesday.\n\nVera Nyström").toWalks(), 0, 470},
	{say(signe, "Mother’s seventieth", "Hi big sister,\n\nThe boat house is free on 16 January. Shall I book it? They want a deposit before the end of the month.\n\nLove, S.").toPrivate(), 0, 382},
	{say(henrik, "Night temperatures in house 4", "Ines,\n\nHouse 4 went down to nine degrees twice this week. I have set the vents to close at 20:00 until the actuator is changed. No need to do anything, just so you know.\n\nHenrik"), 0, 405},
	{say(seeds, "Your order 5520 is on its way", "Your parcel with order 5520 left our warehouse today. It should reach you on Thursday 26 November.\n\nContents: 12 packets Meconopsis, 6 packets Primula.\n\nLund Seeds").asPage(), 1, 1010},
	{say(choir, "Rehearsal moved", "Dear all,\n\nThe rehearsal on Thursday starts at 19:30 instead of 19:00, in the small hall. Please bring the grey folder.\n\nKai").toPrivate(), 1, 1140},
	{say(oda, "Worksheet for the visit", "Hi again,\n\nI have attached the worksheet we would like to use. Can you check that the plants on it can be seen in December?\n\nOda").withFiles("worksheet.pdf"), 0, 432},
	{say(lise, "Labels for the fern house", "Ines, could you tell me by tomorrow how many bilingual labels we need? The engraver has a free slot.\n\nLise"), 0, 466},
	{say(person("Emil Tangen", "emil@tangen-radio.example"), "Interview about winter in the garden", "Dear Ines Halvorsen,\n\nI make a programme on quiet places in winter. Would you have half an hour in the week of 7 December for a recorded talk among the camellias?\n\nEmil Tangen"), 1, 805},
	{say(person("Nora Eide", "nora@eide-lift.example"), "Lift inspection", "Good morning,\n\nThe yearly inspection of the platform lift in the palm house is due. Please let us know which of these days suits you: 1, 2 or 4 December, always from 08:00.\n\nNora Eide"), 0, 490},
	{say(person("Jonas Ferry Office", "groups@islandferries.example"), "Group tickets for 8 December", "Hello,\n\nThe 09:40 boat has room for your school class. Please confirm the number of wheelchairs, since the ramp takes two at a time.\n\nIsland Ferries, groups").toWalks(), 0, 478},
	{message{from: journal, to: ines, subject: "This week under glass", text: "Camellias that flower in December, a new trick against scale insects, and what the frost of 1987 taught us.\n\nWould you like to write for us? Send an idea.", html: true, list: true, remote: true}, 1, 420},
	{message{from: climate, to: ines, subject: "Alarm: house 4 below 10 °C", text: "House 4, sensor 2: 9.4 °C at 03:12. Limit: 10.0 °C.\nThe heating answered at 03:15.", auto: "auto-generated"}, 0, 193},
	{message{from: society, to: ines, cc: []letter.Address{lise}, subject: "[bergflora] Seed list 2027", text: "Dear members,\n\nThe seed list for 2027 is open. Send your wishes before 15 December, at most twenty portions each.\n\nThe committee", list: true}, 1, 1215},
	{message{from: person("Ragnhild Bø", "ragnhild@bo-keramikk.example"), to: ines, subject: "Pots for the spring sale", text: "Hei Ines,\n\nI have fired 120 pots, forty of each size. Shall I bring them on Monday, or is the store still full?\n\nRagnhild Bø", html: true, picture: true}, 0, 441},
	{message{from: lise, to: ines, subject: "Accepted: Seed exchange, with the board", text: "Lise Bo has accepted.", style: "accept"}, 1, 1022},
	{message{from: tove, to: ines, subject: "Accepted: Guides’ rota", text: "Tove Lindqvist has accepted.", style: "accept"}, 1, 1041},
	{say(director, "Short word about the gate", "Ines, the east gate will be closed for repair from 1 to 3 December. Does that touch the loan?"), 0, 476},
}

// copies are who else gets much of Ines's mail.
var copies = []letter.Address{tove, henrik}
