package demo

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"

	"ebbe.example/ebbe/internal/core/when"
)

// filling says what the words in braces mean in one letter of a day. A word
// means the same all through the letter, its subject and its answer; days,
// weeks and numbers fit the calendar.
type filling struct {
	r     *rand.Rand
	day   when.Date
	known map[string]string
}

func fill(r *rand.Rand, d when.Date) *filling { return &filling{r, d, map[string]string{}} }

// say writes a template: "{a|b}" is one of both, "{word}" is filled in. Braces
// may stand within braces.
func (f *filling) say(template string) string {
	open := strings.IndexByte(template, '{')
	if open < 0 {
		return template
	}
	depth, end := 0, -1
	var bars []int
	for i := open; i < len(template) && end < 0; i++ {
		switch template[i] {
		case '{':
			depth++
		case '}':
			if depth--; depth == 0 {
				end = i
			}
		case '|':
			if depth == 1 {
				bars = append(bars, i)
			}
		}
	}
	if end < 0 {
		return template
	}
	before, after := template[:open], template[end+1:]
	if len(bars) == 0 {
		return before + f.slot(template[open+1:end]) + f.say(after)
	}
	n, from, to := f.r.IntN(len(bars)+1), open+1, end
	if n > 0 {
		from = bars[n-1] + 1
	}
	if n < len(bars) {
		to = bars[n]
	}
	return before + f.say(template[from:to]) + f.say(after)
}

// slot is what a word means in this letter.
func (f *filling) slot(word string) string {
	if said, ok := f.known[word]; ok {
		return said
	}
	said := f.mean(word)
	f.known[word] = said
	return said
}

func (f *filling) mean(word string) string {
	between := func(a, b int) string { return fmt.Sprint(a + f.r.IntN(b-a+1)) }
	switch word {
	case "few":
		return between(2, 6)
	case "count":
		return between(8, 40)
	case "pupils":
		return between(18, 30)
	case "class":
		return between(3, 7)
	case "house":
		return between(1, 6)
	case "number", "number2":
		return fmt.Sprint(10 * (12 + f.r.IntN(86)))
	case "price", "price2":
		return fmt.Sprintf("%d.%02d", 9+f.r.IntN(180), 10*f.r.IntN(10))
	case "amount":
		return fmt.Sprintf("%d,%03d", 1+f.r.IntN(4), 10*f.r.IntN(100))
	case "temp":
		return fmt.Sprintf("%.1f", 6.8+3*f.r.Float64())
	case "day":
		return between(14, 21)
	case "hour":
		return fmt.Sprintf("%02d:%02d", 9+f.r.IntN(6), 30*f.r.IntN(2))
	case "hour2":
		return fmt.Sprintf("%02d:%02d", 18+f.r.IntN(2), 30*f.r.IntN(2))
	case "clock", "clock2":
		return fmt.Sprintf("%02d:%02d", f.r.IntN(7), f.r.IntN(60))
	case "order", "invoice", "receipt", "ship", "parcel":
		return f.running(word)
	}
	if list, ok := wordLists[word]; ok {
		return f.other(list, strings.TrimRight(word, "2"))
	}
	return f.dated(word)
}

// running numbers go on from day to day, as those of an office do.
func (f *filling) running(word string) string {
	days := first.DaysUntil(f.day)
	switch word {
	case "order":
		return fmt.Sprint(5210 + days*5 + f.r.IntN(5))
	case "invoice":
		return fmt.Sprint(1082 + days*2 + f.r.IntN(2))
	case "receipt":
		return fmt.Sprintf("26-%04d", 1310+days*4+f.r.IntN(4))
	case "parcel":
		return fmt.Sprintf("NP %04d %02d", 4100+days*9, 10+f.r.IntN(90))
	}
	return fmt.Sprintf("NB-%d", 180+days+f.r.IntN(2))
}

// dated are the words that the calendar fills.
func (f *filling) dated(word string) string {
	d := f.day
	week := func(d when.Date) string {
		_, w := date(d).ISOWeek()
		return fmt.Sprint(w)
	}
	month := func(by int) string {
		return time.Date(d.Year, d.Month+time.Month(by), 1, 0, 0, 0, 0, time.UTC).Month().String()
	}
	switch word {
	case "today":
		return fmt.Sprintf("%s %d %s", d.Weekday(), d.Day, d.Month)
	case "soon":
		return working(d.Add(1+f.r.IntN(4)), 1).Weekday().String()
	case "lastday":
		return working(d.Add(-1-f.r.IntN(3)), -1).Weekday().String()
	case "date":
		at := working(d.Add(7+f.r.IntN(16)), 1)
		return fmt.Sprintf("%s %d %s", at.Weekday(), at.Day, at.Month)
	case "datede":
		at := working(d.Add(3+f.r.IntN(9)), 1)
		return fmt.Sprintf("%s, %d.%d.", map[time.Weekday]string{1: "Montag", 2: "Dienstag", 3: "Mittwoch", 4: "Donnerstag", 5: "Freitag"}[at.Weekday()], at.Day, at.Month)
	case "week":
		return week(d.Add(7))
	case "thisweek":
		return week(d)
	case "lastweek":
		return week(d.Add(-7))
	case "thismonth":
		return month(0)
	case "lastmonth":
		return month(-1)
	case "nextmonth":
		return month(1)
	}
	panic("nothing is known of {" + word + "}") // a slip in the texts that ship
}

// other is a word of a list that no other word of the letter is.
func (f *filling) other(list []string, kind string) string {
	for {
		if w := list[f.r.IntN(len(list))]; f.known[kind] != w && f.known[kind+"2"] != w {
			return w
		}
	}
}

func date(d when.Date) time.Time { return time.Date(d.Year, d.Month, d.Day, 0, 0, 0, 0, time.UTC) }

// working is the first working day from a day on, in a direction.
func working(d when.Date, by int) when.Date {
	for d.Weekday() == time.Saturday || d.Weekday() == time.Sunday {
		d = d.Add(by)
	}
	return d
}

// capital begins a text with a capital letter.
func capital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[n:]
}

// ascii writes a name as it may stand in an address.
func ascii(name string) string {
	plain := strings.NewReplacer("ø", "o", "æ", "ae", "å", "a", "ß", "ss", "ł", "l").Replace(strings.ToLower(name))
	out, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC), plain)
	if err != nil {
		return plain
	}
	return out
}

var (
	plantNames = []string{
		"bromeliads", "tree ferns", "camellias", "cycads", "orchids", "tillandsias", "proteas", "mosses", "gentians", "primulas", "lemon trees", "begonias", "hellebores", "snowdrops",
		"pitcher plants", "sundews", "peperomias", "staghorn ferns", "saxifrages", "blue poppies", "auriculas", "aloes", "clivias", "fuchsias", "pelargoniums", "passion flowers", "jasmines", "agaves",
	}
	guideNames = []string{"Solveig", "Arne", "Ylva", "Mads", "Bente", "Jakob", "Runa", "Einar"}
	wordLists  = map[string][]string{
		"plants": plantNames, "plants2": plantNames, "guide": guideNames, "guide2": guideNames,
		"latin": {"Meconopsis", "Soldanella", "Primula", "Ramonda", "Saxifraga", "Gentiana"}, "language": {"Dutch", "German", "French", "Polish", "Finnish"},
		"place": {"rose terrace", "lower pavilion", "herb yard", "moss walk", "pond bank", "long border", "old nursery", "west path"}, "side": {"south", "west", "north", "gable"},
		"account": {"plants", "buildings", "walks", "travel", "print"}, "council": {"garden council", "building committee", "programme group"},
		"town": {"Lomvik", "Sandøy", "Grimsund", "Haverstad", "Elvdal", "Torskefjord", "Nordby"}, "stranger": strangerNames(),
	}
	mailHosts = []string{"brevhuset.example", "kystpost.example", "letterbox.example", "fjordmail.example", "posthorn.example"}
)

// strangerNames are people whom Ines does not know.
func strangerNames() (out []string) {
	for _, given := range []string{"Marit", "Olav", "Hedda", "Tomas", "Liv", "Anders", "Kirsten", "Jonas", "Aisha", "Petter", "Wanda", "Iver", "Maja", "Terje", "Leonie", "Farid"} {
		for _, family := range []string{"Berg", "Dahl", "Lunde", "Haugen", "Nygård", "Sætre", "Winther", "Kowal", "Brandt", "Viken", "Øverland", "Storm"} {
			out = append(out, given+" "+family)
		}
	}
	return out
}
