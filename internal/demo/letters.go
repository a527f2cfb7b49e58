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
	{say(director, "Short word about the gate", "Ines, the east gate will be closed for repair from 1 to 3 December. Does that touch the loan?"), 0, 476},
}

// walkIns are what the demo bar sends in.
var walkIns = []message{
	say(bram, "Driver’s telephone", "Dear Ines,\n\nThe driver on Monday is Joop. Could you send him the gate code by Sunday evening? His number is 555-0142.\n\nBram"),
	say(oda, "One pupil more", "Hi Ines, we are 29 now. Is that still all right?\n\nOda"),
	{from: climate, to: ines, subject: "Alarm: house 2 vent stuck", text: "House 2, vent 5: no movement for 10 minutes.", auto: "auto-generated"},
	say(maren, "Scaffolding", "Hello Ines,\n\nThe scaffolders could start on Tuesday already. Please tell me today whether the south side is free.\n\nMaren"),
	say(signe, "Cake", "Marzipan or carrot? S.").toPrivate(),
	say(vera, "Bowls", "Hello, do you have bowls, or shall we bring paper ones?\n\nVera").toWalks(),
	{from: prize, to: ines, subject: "You were chosen", text: "Claim your grand award today. Answer with your address.", html: true, remote: true},
	say(lise, "Banner text", "“Green Hours: spring at Norrholm”. Can you live with that?\n\nLise"),
}

// pattern is a kind of letter that comes again and again.
type pattern struct {
	from    letter.Address
	to      letter.Address
	subject string
	texts   []string
	per     int // in a hundred letters, about
	list    bool
	html    bool
	remote  bool
	auto    string
	files   []string
	fates   string // one letter a fate, drawn evenly: see world.go
	replies string // what Ines answers
	style   string
}

var patterns = []pattern{
	{from: tove, to: ines, subject: "Rota for week {n}", texts: []string{"Hi,\n\nthe rota for week {n} is below. Can you look at {day}? Two guides are missing.\n\nTove", "Hi Ines,\n\nweek {n} is full. Nothing to do.\n\nTove"}, per: 8, fates: "aaddf", replies: "Thanks Tove. I will take {day} myself."},
	{from: lise, to: ines, subject: "{plant} in house {k}", texts: []string{"The {plant} in house {k} has scale again. Shall I treat it or cut it back?\n\nLise", "The {plant} flowers. Come and see before {day}.\n\nLise", "Please order more bark for the {plant}, we have two bags left.\n\nLise"}, per: 10, fates: "aadddlu", replies: "Cut it back, please, and keep the cuttings."},
	{from: henrik, to: ines, subject: "House {k}, report of {day}", texts: []string{"Night {t} degrees, day {n} degrees, vents normal. Filters changed.\n\nHenrik", "Could you approve a new pump for house {k}? The old one leaks. About 2,400 with fitting.\n\nHenrik"}, per: 9, files: []string{"readings.csv"}, fates: "ddadu", replies: "Approved. Please send me the bill."},
	{from: director, to: ines, subject: "For {day}", texts: []string{"Please send me the visitor numbers of last week before {day}.", "The chair comes on {day}. Can you show her the orangery at two?"}, per: 4, fates: "aau", replies: "I will."},
	{from: oda, to: ines, subject: "Class {k}", texts: []string{"Hi Ines,\n\ncould class {k} come on {day}? We would be {n} pupils.\n\nOda", "Thank you, it was a fine day. The pupils still speak of the {plant}.\n\nOda"}, per: 5, fates: "aadl", replies: "Yes, {day} is free. I have put you down for ten o’clock."},
	{from: bram, to: ines, subject: "Transport {n}", texts: []string{"Dear Ines,\n\nthe papers for transport {n} are attached. Please check the weights.\n\nBram", "Transport {n} arrived well. Would you sign the slip and send it back?\n\nBram"}, per: 5, files: []string{"transport.pdf"}, fates: "aadfw", replies: "Checked, all correct."},
	{from: maren, to: ines, subject: "Orangery: pane {n}", texts: []string{"Hello Ines,\n\npane {n} has a crack in the corner. Do you want it changed now or with the rest?\n\nMaren", "Pane {n} is in. Photo attached.\n\nMaren"}, per: 4, files: []string{"pane.png"}, fates: "aadl", replies: "With the rest, please."},
	{from: seeds, to: ines, subject: "Order {n} has left", texts: []string{"Your parcel with order {n} left our warehouse. It should reach you in two days.\n\nLund Seeds"}, per: 4, html: true, auto: "auto-generated", fates: "dfb"},
	{from: journal, to: ines, subject: "Under glass, issue {n}", texts: []string{"{plant} from seed, the truth about peat, and a visit to a walled garden.\n\nRead on in the issue."}, per: 6, list: true, html: true, remote: true, fates: "bbd"},
	{from: society, to: ines, subject: "[bergflora] {plant}", texts: []string{"Has anybody {plant} to spare? I offer seed of the white form.\n\nA member", "The talk on {plant} is moved to {day}.\n\nThe committee"}, per: 12, list: true, fates: "ddbf"},
	{from: climate, to: ines, subject: "Alarm: house {k} below 10 °C", texts: []string{"House {k}, sensor {k}: {t} °C. Limit: 10.0 °C. The heating answered."}, per: 10, auto: "auto-generated", fates: "dddb"},
	{from: ferry, to: walks, subject: "Timetable for week {n}", texts: []string{"The boats of week {n} go as usual. On {day} the 07:20 boat is left out."}, per: 3, list: true, fates: "df"},
	{from: vera, to: walks, subject: "Catering {day}", texts: []string{"Hello,\n\nfor how many shall we cook on {day}? I need to know two days before.\n\nVera", "The bill for {day} is attached.\n\nVera"}, per: 4, files: []string{"bill.pdf"}, fates: "aaf", replies: "For forty, please."},
	{from: anton, to: ines, subject: "Receipt {n}", texts: []string{"Dear Ines,\n\nthe receipt {n} has no account on it. Which one is it?\n\nAnton Rask"}, per: 4, fates: "aau", replies: "Put it under plants."},
	{from: signe, to: private, subject: "Sunday", texts: []string{"Are you coming on Sunday? S.", "Look what I found in the attic. S."}, per: 3, files: []string{"attic.png"}, fates: "ada", replies: "Of course."},
	{from: choir, to: private, subject: "Rehearsal on {day}", texts: []string{"Dear all,\n\nwe meet at 19:00 on {day}. Bring a pencil.\n\nKai"}, per: 3, fates: "dd"},
	{from: prize, to: ines, subject: "Your award no. {n}", texts: []string{"You were chosen! Answer at once to claim award {n}."}, per: 3, html: true, remote: true, fates: "j"},
	{from: person("Søren Ågård", "soren@agard-planter.example"), to: ines, subject: "Prøver på {plant}", texts: []string{"Kære Ines,\n\njeg sender tre prøver på {plant} i morgen. Kan du bekræfte, at de er kommet?\n\nSøren Ågård"}, per: 2, style: "latin", fates: "ad", replies: "They have come, thank you."},
}

// More patterns, whose letters are written in other ways.
func init() {
	patterns = append(patterns,
		pattern{from: person("Aoi Tanaka", "aoi@midori-teien.example"), to: ines, subject: "苔の庭 {n}", texts: []string{"Ines 様\n\n苔の標本を{n}点お送りしました。届きましたらお知らせください。\n\n田中"}, per: 1, style: "japanese", fates: "ad", replies: "They have come, thank you."},
		pattern{from: person("Ирина Соколова", "irina@botsad-sever.example"), to: ines, subject: "Семена: список {n}", texts: []string{"Здравствуйте, Инес!\n\nВысылаю список семян номер {n}. Подтвердите, пожалуйста, получение.\n\nИрина"}, per: 1, style: "cyrillic", fates: "adf", replies: "Thank you, it has come."},
		pattern{from: person("Zoë Bäcker", "zoe@baecker-erden.example"), to: ines, subject: "Lieferung {n} – Torfersatz", texts: []string{"Hallo Ines,\n\ndie Lieferung {n} kommt am Freitag. „Grün“ kostet jetzt 12 € je Sack. Passt das?\n\nZoë"}, per: 2, style: "western", fates: "adf", replies: "Yes, that is fine."},
		pattern{from: tove, to: ines, subject: "Guides’ meeting {n}", texts: []string{"Hi Ines,\n\nI have put the guides’ meeting into the calendar. Can you come?\n\nTove"}, per: 2, style: "invite", fates: "add", replies: "I will be there."},
		pattern{from: lise, to: ines, subject: "Accepted: planting plan {n}", texts: []string{"Lise Bo has accepted."}, per: 3, style: "accept", fates: "d"},
		pattern{from: henrik, to: ines, subject: "Accepted: boiler check {n}", texts: []string{"Henrik Aas has accepted."}, per: 2, style: "accept", fates: "d"},
		pattern{from: lise, to: ines, subject: "Fwd: labels {n}", texts: []string{"Ines, see the printer’s letter below. Shall I order?\n\nLise"}, per: 2, style: "forward", fates: "adl", replies: "Yes, order them."},
		pattern{from: anton, to: ines, subject: "Statement {n}", texts: []string{"Dear Ines,\n\nplease confirm the balance of account {n} by {day}.\n\nAnton Rask"}, per: 2, style: "certified", fates: "adu", replies: "Confirmed."},
		pattern{from: person("Per Hauge", "per@hauge-fjell.example"), to: ines, subject: "Alpine seed {n}", texts: []string{"Hello Ines,\n\nthe alpine seed is sorted. Do you want lot {n}?\n\nPer"}, per: 2, style: "signed", fates: "ad", replies: "Yes, please."},
		pattern{from: journal, to: ines, subject: "Under glass, extra {n}", texts: []string{"A winter offer for readers of Under glass, and a word on {plant}."}, per: 5, style: "tracked", fates: "bbd"},
		pattern{from: person("Meter", "meter@island-water.example"), to: ines, subject: "", texts: []string{"Meter {n}: {t} cubic metres."}, per: 2, style: "bare", fates: "dd"},
		pattern{from: person("Gate", "gate@norrholm.example"), to: ines, subject: "East gate opened", texts: []string{"The east gate was opened with code {n}."}, per: 2, style: "future", fates: "d"},
		pattern{from: person("Old Scanner", "scan@norrholm.example"), to: ines, subject: "Scan {n}", texts: []string{"The scan {n} is on the shared disk, in the folder of {day}."}, per: 1, style: "false", fates: "d"},
		pattern{from: henrik, to: ines, subject: "Measurements {n}", texts: []string{"Night and day for house 3 are attached.\n\nHenrik"}, per: 2, style: "odd-name", fates: "df"},
		pattern{from: director, to: ines, subject: "Read this: {day}", texts: []string{"Ines, please read the minutes of {day} before you come.\n\nThe director"}, per: 1, style: "receipt", fates: "d"},
	)
}

// copies are who else gets much of Ines's mail.
var copies = []letter.Address{tove, henrik}

// writers are who writes in the long conversations.
var writers = map[string]letter.Address{"T": tove, "L": lise, "H": henrik, "M": maren, "B": bram, "O": oda, "V": vera, "S": signe}

var threads = []thread{
	{"Where to put the cactus bench", []string{"L", "H", "T"}, []string{"The cactus bench blocks the wheelchairs. Where could it go?", "South wall, I would say. It is dry there.", "The south wall has the pipe. What about the porch?", "The porch is too dark from November on.", "Then the south wall, thirty centimetres off the pipe."}, 55, 14},
	{"Bromeliad loan: the papers", []string{"B", "L"}, []string{"Dear Ines, which of the plants need their own papers?", "Numbers 4, 9 and 12. I have the old forms.", "The old forms are no longer taken. Can you print the new ones?", "Printed. Who signs for the garden?"}, 50, 12},
	{"Winter opening hours", []string{"T", "V", "O"}, []string{"Shall we close at three from December on?", "Then the café needs to close at half past two.", "Two schools have asked for three o’clock.", "Let us keep four o’clock on Thursdays only."}, 45, 11},
	{"Glazing: which side first", []string{"M", "H"}, []string{"We could begin on the south or the west. What do you prefer?", "West first, the lemons stand in the south.", "Then we need the scaffold a week earlier.", "That is possible if the gate is free."}, 40, 13},
	{"New name for the fern house", []string{"L", "T", "H", "O"}, []string{"“The Green Room”?", "Too much like a theatre.", "“Understorey”?", "Nobody can spell it.", "“Fern house” is a name too.", "Then it stays."}, 36, 12},
	{"Seed exchange with the south", []string{"L", "H"}, []string{"They offer forty kinds against our thirty.", "Can we keep the cold chain?", "With two boxes, yes. I asked the carrier.", "Then let us take the first twenty."}, 33, 10},
	{"Mother’s seventieth: who brings what", []string{"S"}, []string{"I bring the cake. You the flowers?", "And who brings the chairs?", "Uncle has twelve chairs.", "We are twenty-three."}, 30, 9},
	{"The otters again", []string{"H", "T", "L"}, []string{"The otters have eaten nine carp.", "A net over the pond?", "A net looks ugly on the photographs.", "A dog, then.", "No dog."}, 27, 12},
	{"Lights along the west path", []string{"T", "H"}, []string{"Four lamps are out along the west path.", "Two are the fuse, two the cable.", "The electrician can come on Thursday.", "He needs the plan of 1994."}, 22, 9},
	{"Plant fair: who stands where", []string{"V", "L", "T", "O"}, []string{"We would like the corner by the gate again.", "The corner has no power.", "There is a cable from the shop.", "Then the corner it is."}, 19, 11},
	{"The talk on mosses", []string{"L", "O"}, []string{"Would forty minutes be too long for the talk?", "Thirty, and ten for questions.", "Can the children touch them?", "Some of them."}, 14, 8},
	{"Frost damage in house 2", []string{"H", "L"}, []string{"Six trays are gone, the rest will live.", "Which six?", "Begonias, all of them.", "I will sow again in January."}, 9, 7},
	{"Gate code for the drivers", []string{"B", "T"}, []string{"The driver’s code did not work this morning.", "It was changed on Friday, I send the new one.", "Thank you, it works."}, 6, 6},
}

var (
	plants   = []string{"bromeliads", "tree ferns", "camellias", "cycads", "orchids", "tillandsias", "proteas", "mosses", "gentians", "primulas"}
	dayNames = []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday"}
)
