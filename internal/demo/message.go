package demo

import (
	"bytes"
	"cmp"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"strings"
	"time"

	"github.com/jhillyerd/enmime/v2"

	"ebbe.example/ebbe/internal/core/letter"
)

// message is a letter of the demo, before it is written as MIME.
type message struct {
	id       string // makes the Message-ID; answers name it
	answers  string // Message-ID of the letter that it answers
	refs     []string
	bounced  string // whom a letter could not be delivered to, in a report
	style    string // how it is written: see written; "" for the usual way
	layout   string // how its HTML looks: see layouts
	colour   string // of its HTML
	from, to letter.Address
	cc       []letter.Address
	subject  string
	text     string
	html     bool // also as HTML
	picture  bool // with a picture inside the HTML
	remote   bool // with a remote picture
	attach   []string
	list     bool
	listID   string // of the list, where it isn't the sender's own
	auto     string // Auto-Submitted
	at       time.Time
}

func messageID(id string, from letter.Address) string {
	_, domain, _ := strings.Cut(from.Email, "@")
	return id + "@" + domain
}

// bytes writes the letter; the seed makes its boundaries.
func (m message) bytes(seed int64) ([]byte, error) {
	if write, ok := written[m.style]; ok {
		return write(m), nil
	}
	b := enmime.Builder().RandSeed(seed).From(m.from.Name, m.from.Email).To(m.to.Name, m.to.Email).
		Subject(m.subject).Date(m.at).Header("Message-Id", "<"+messageID(m.id, m.from)+">").Text([]byte(strings.ReplaceAll(m.text, " | ", ": ")))
	for _, c := range m.cc {
		b = b.CC(c.Name, c.Email)
	}
	if m.answers != "" {
		b = b.Header("In-Reply-To", "<"+m.answers+">").Header("References", "<"+m.answers+">")
	}
	if n := len(m.refs); n > 0 {
		b = b.Header("In-Reply-To", "<"+m.refs[n-1]+">").Header("References", "<"+strings.Join(m.refs, "> <")+">")
	}
	if m.list {
		b = b.Header("List-Id", "<"+cmp.Or(m.listID, strings.ReplaceAll(m.from.Email, "@", "."))+">").
			Header("List-Unsubscribe", "<mailto:leave-"+m.from.Email+">").Header("Precedence", "list")
	}
	if m.auto != "" {
		b = b.Header("Auto-Submitted", m.auto)
	}
	if m.html {
		b = b.HTML([]byte(m.asHTML()))
	}
	if m.picture {
		b = b.AddInline(drawing(seed), "image/png", "leaf.png", "leaf")
	}
	for _, name := range m.attach {
		content, kind := attachment(name, seed)
		b = b.AddAttachment(content, kind, name)
	}
	root, err := b.Build()
	if err != nil {
		return nil, fmt.Errorf("write %q: %w", m.subject, err)
	}
	var buf bytes.Buffer
	err = root.Encode(&buf)
	return buf.Bytes(), err
}

func (m message) asHTML() string {
	body := paragraphs(m.text)
	if m.picture {
		body += `<p><img src="cid:leaf" alt="A drawing of a leaf" width="160"></p>`
	}
	if m.remote {
		body += fmt.Sprintf(`<p><img src="https://pictures.%s/issue.jpg" alt="The cover" width="480"></p>`, domainOf(m))
	}
	return layouts[m.layout](m, body)
}

// attachment makes a small file of the kind that its name says.
func attachment(name string, seed int64) (content []byte, kind string) {
	switch name[strings.LastIndexByte(name, '.')+1:] {
	case "png":
		return drawing(seed), "image/png"
	case "csv":
		if name == "readings.csv" {
			low := 9 + seed%4
			return fmt.Appendf(nil, "hour,degrees,moisture\r\n00:00,%d.4,71\r\n03:00,%d.1,74\r\n06:00,%d.6,73\r\n12:00,%d.0,62\r\n", low+1, low, low+1, low+9), "text/csv"
		}
		return []byte("item,width_cm,height_cm\r\nCrate 1,60,98\r\nCrate 2,60,98\r\nCrate 3,70,118\r\nCrate 4,70,138\r\n"), "text/csv"
	case "ics":
		return []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//norrholm.example//demo//EN\r\nMETHOD:REQUEST\r\nBEGIN:VEVENT\r\nUID:" +
			fmt.Sprint(seed) + "@norrholm.example\r\nDTSTAMP:20261120T080000Z\r\nDTSTART:20261201T120000Z\r\nDTEND:20261201T130000Z\r\nSUMMARY:Orangery site meeting\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"), "text/calendar"
	case "pdf":
		return paper(name), "application/pdf"
	}
	return []byte("Notes\n"), "text/plain"
}

// paper is a PDF of one page with its name on it.
func paper(title string) []byte {
	stream := "BT /F1 24 Tf 72 720 Td (" + strings.NewReplacer("(", "", ")", "", `\`, "").Replace(title) + ") Tj ET"
	objects := []string{
		"<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Contents 4 0 R/Resources<</Font<</F1 5 0 R>>>>>>",
		fmt.Sprintf("<</Length %d>>stream\n%s\nendstream", len(stream), stream), "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>",
	}
	var b bytes.Buffer
	b.WriteString("%PDF-1.4\n")
	var offsets []int
	for i, o := range objects {
		offsets = append(offsets, b.Len())
		fmt.Fprintf(&b, "%d 0 obj%s endobj\n", i+1, o)
	}
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(objects)+1)
	for _, o := range offsets {
		fmt.Fprintf(&b, "%010d 00000 n \n", o)
	}
	fmt.Fprintf(&b, "trailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF\n", len(objects)+1, start)
	return b.Bytes()
}

// drawing is a leaf, a little different for each seed.
func drawing(seed int64) []byte {
	const w, h = 160, 120
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	green := color.RGBA{uint8(40 + seed%50), uint8(110 + seed%60), uint8(60 + seed%30), 255}
	for y := range h {
		for x := range w {
			dx, dy := float64(x-w/2)/60, float64(y-h/2)/(38*(1-abs(float64(x-w/2))/110))
			c := color.RGBA{238, 241, 236, 255}
			if dx*dx+dy*dy < 1 {
				c = green
				if abs(float64(y-h/2)) < 1.5 {
					c = color.RGBA{240, 240, 220, 255}
				}
			}
			img.Set(x, y, c)
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		return nil // a picture in memory can always be written
	}
	return b.Bytes()
}

func abs(x float64) float64 { return max(x, -x) }
