// Package attached has the rules of files that are attached to letters: what sorts of them there are, which are
// meant by what is asked for, and how tables among them are shown.
package attached

import (
	"cmp"
	"mime"
	"path"
	"slices"
	"strings"
	"time"

	"ebbe.example/ebbe/internal/core/letter"
)

// Sort is what sort of file something is.
type Sort string

// The sorts.
const (
	Picture  Sort = "picture"
	PDF      Sort = "pdf"
	Text     Sort = "text"
	Table    Sort = "table"
	Slides   Sort = "slides"
	Calendar Sort = "calendar"
	Letter   Sort = "letter"
	Sound    Sort = "sound"
	Film     Sort = "film"
	Packed   Sort = "packed"
	Other    Sort = "other"
)

// About is a sort with what its files are called.
type About struct {
	Sort Sort
	Name string
}

// Sorts are all of them, in their order.
var Sorts = []About{
	{Picture, "Pictures"}, {PDF, "PDF"}, {Text, "Texts"}, {Table, "Tables"}, {Slides, "Slides"}, {Calendar, "Appointments and cards"},
	{Letter, "Letters"}, {Sound, "Sound"}, {Film, "Film"}, {Packed, "Packed"}, {Other, "Other"},
}

// byType are the sorts of media types whose first half tells nothing.
var byType = map[string]Sort{
	"application/pdf": PDF, "text/csv": Table, "text/tab-separated-values": Table, "text/calendar": Calendar, "text/vcard": Calendar, "text/x-vcard": Calendar,
	"application/zip": Packed, "application/gzip": Packed, "application/x-tar": Packed, "application/x-7z-compressed": Packed,
	"application/msword": Text, "application/rtf": Text, "application/vnd.ms-excel": Table, "application/vnd.ms-powerpoint": Slides,
	"application/vnd.oasis.opendocument.text": Text, "application/vnd.oasis.opendocument.spreadsheet": Table, "application/vnd.oasis.opendocument.presentation": Slides,
	"application/vnd.openxmlformats-officedocument.wordprocessingml.document":   Text,
	"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet":         Table,
	"application/vnd.openxmlformats-officedocument.presentationml.presentation": Slides,
}

// byEnd are the sorts by the ends of names, which tell more than a type does that only says that it is a file.
var byEnd = map[string]Sort{}

func init() {
	for sort, ends := range map[Sort]string{
		Picture: "png jpg jpeg gif webp heic heif tif tiff bmp svg avif", PDF: "pdf", Text: "txt md rtf doc docx odt pages html htm log",
		Table: "csv tsv xls xlsx ods numbers", Slides: "ppt pptx odp key", Calendar: "ics vcf", Letter: "eml msg mbox",
		Sound: "mp3 wav ogg oga m4a flac opus", Film: "mp4 mov mkv webm avi m4v", Packed: "zip gz tgz tar 7z rar xz bz2 zst",
	} {
		for end := range strings.FieldsSeq(ends) {
			byEnd["."+end] = sort
		}
	}
}

// SortOf tells what sort of file one of a name and a media type is: by its name, and where that tells nothing, by
// its type.
func SortOf(name, contentType string) Sort {
	if s, ok := byEnd[strings.ToLower(path.Ext(name))]; ok {
		return s
	}
	kind, _, err := mime.ParseMediaType(contentType)
	if err != nil {
		kind = strings.ToLower(contentType)
	}
	if s, ok := byType[kind]; ok {
		return s
	}
	main, _, _ := strings.Cut(kind, "/")
	switch main {
	case "image":
		return Picture
	case "audio":
		return Sound
	case "video":
		return Film
	case "text":
		return Text
	case "message":
		return Letter
	}
	return Other
}

// File is a file of a letter.
type File struct {
	Letter, Conversation int64
	// Part is its number among the letter's parts, from 0.
	Part    int
	Name    string
	Sort    Sort
	Size    int // in bytes
	From    letter.Address
	Own     bool
	Subject string
	At      time.Time
}

// Order is how files are ordered.
type Order string

// The orders.
const (
	Newest   Order = "newest"
	Largest  Order = "largest"
	ByName   Order = "name"
	BySender Order = "sender"
)

// Asked is which files are asked for.
type Asked struct {
	Sort  Sort   // "" for all
	Near  string // words of the file's name, of its sender or its letter's subject, each as it begins
	Order Order
}

// Picked are the files that are asked for, in order, and how many there are of each sort that the words find.
func Picked(list []File, ask Asked) (files []File, of map[Sort]int) {
	of = map[Sort]int{}
	words := letter.Words(ask.Near)
	for _, f := range list {
		if !f.near(words) {
			continue
		}
		of[f.Sort]++
		if ask.Sort == "" || ask.Sort == f.Sort {
			files = append(files, f)
		}
	}
	slices.SortStableFunc(files, func(a, b File) int {
		first := 0
		switch ask.Order {
		case Largest:
			first = cmp.Compare(b.Size, a.Size)
		case ByName:
			first = cmp.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name))
		case BySender:
			first = cmp.Compare(strings.ToLower(a.From.Display()), strings.ToLower(b.From.Display()))
		case Newest:
		}
		return cmp.Or(first, b.At.Compare(a.At), cmp.Compare(b.Letter, a.Letter), cmp.Compare(a.Part, b.Part))
	})
	return files, of
}

func (f File) near(words []string) bool {
	if len(words) == 0 {
		return true
	}
	in := letter.Words(f.Name + "\n" + f.From.Name + "\n" + f.From.Email + "\n" + f.Subject)
	return !slices.ContainsFunc(words, func(w string) bool { return !letter.StartsWith(in, []string{w}) })
}
