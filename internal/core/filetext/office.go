package filetext

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"
)

// maxUnpacked is how much of a packed document is unpacked: a bomb is more.
const maxUnpacked = 64 << 20

// openDocument reads OpenDocument (ISO/IEC 26300): content.xml has the text.
func openDocument(data []byte, out *text) error {
	z, err := unzip(data)
	if err != nil {
		return err
	}
	if slices.ContainsFunc(z.File, func(f *zip.File) bool { return f.Name == "META-INF/manifest.xml" && says(f, "encryption-data") }) {
		return ErrEncrypted
	}
	return z.texts(out, func(name string) bool { return name == "content.xml" })
}

// office reads Office Open XML (ISO/IEC 29500): documents with what stands at their head and foot, and
// slides with their notes.
func office(data []byte, out *text) error {
	z, err := unzip(data)
	if err != nil {
		return err
	}
	return z.texts(out, func(name string) bool {
		folder, file := path.Split(name)
		switch folder {
		case "word/":
			return file == "document.xml" || file == "footnotes.xml" || file == "endnotes.xml" || file == "comments.xml" || strings.HasPrefix(file, "header") || strings.HasPrefix(file, "footer")
		case "ppt/slides/", "ppt/notesSlides/":
			return path.Ext(file) == ".xml"
		}
		return false
	})
}

type packed struct {
	*zip.Reader
	left int64
}

// compound is how older office files begin, and new ones that are encrypted ([MS-OFFCRYPTO]).
var compound = []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")

func unzip(data []byte) (*packed, error) {
	if bytes.HasPrefix(data, compound) {
		return nil, ErrEncrypted
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, err
	}
	return &packed{z, maxUnpacked}, nil
}

func says(f *zip.File, word string) bool {
	r, err := f.Open()
	if err != nil {
		return false
	}
	defer r.Close()
	b, _ := io.ReadAll(io.LimitReader(r, 1<<20)) // what can be read of it tells
	return bytes.Contains(b, []byte(word))
}

// texts reads the files of a name, in the order of their names: slide2 before slide10.
func (z *packed) texts(out *text, wanted func(name string) bool) error {
	files := slices.DeleteFunc(slices.Clone(z.File), func(f *zip.File) bool { return !wanted(f.Name) })
	if len(files) == 0 {
		return errors.New("there is no document in it")
	}
	slices.SortStableFunc(files, func(a, b *zip.File) int {
		if d := len(a.Name) - len(b.Name); d != 0 && path.Dir(a.Name) == path.Dir(b.Name) {
			return d
		}
		return strings.Compare(a.Name, b.Name)
	})
	for _, f := range files {
		if f.Flags&1 != 0 {
			return ErrEncrypted
		}
		if err := z.text(f, out); err != nil {
			return fmt.Errorf("%s: %w", f.Name, err)
		}
	}
	return nil
}

// text is what stands between the marks of a file; the end of a paragraph, a cell or a row is a line.
func (z *packed) text(f *zip.File, out *text) error {
	r, err := f.Open()
	if err != nil {
		return err
	}
	defer r.Close()
	bounded := &io.LimitedReader{R: r, N: z.left}
	defer func() { z.left = bounded.N }()
	d := xml.NewDecoder(bounded)
	d.Strict = false
	for {
		t, err := d.RawToken()
		if bounded.N <= 0 {
			return ErrTooLarge
		}
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		add := ""
		switch t := t.(type) {
		case xml.CharData:
			add = string(t)
		case xml.EndElement:
			switch t.Name.Local {
			case "p", "h", "tr", "table-row", "br":
				add = "\n"
			case "tc", "table-cell":
				add = "\t"
			}
		case xml.StartElement:
			switch t.Name.Local {
			case "tab", "s", "line-break":
				add = " "
			}
		}
		if err := out.add(add); err != nil {
			return err
		}
	}
}

// spreadsheet reads the cells of a workbook as they are shown, sheet by sheet.
func spreadsheet(data []byte, out *text) error {
	if bytes.HasPrefix(data, compound) {
		return ErrEncrypted
	}
	f, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: maxUnpacked / 4})
	if err != nil {
		if strings.Contains(err.Error(), "unzip size exceeds") {
			return ErrTooLarge
		}
		return err
	}
	defer f.Close()
	for _, sheet := range f.GetSheetList() {
		if err := out.add(sheet + "\n"); err != nil {
			return err
		}
		rows, err := f.Rows(sheet)
		if err != nil {
			return err
		}
		for rows.Next() {
			cells, err := rows.Columns()
			if err == nil {
				err = out.add(strings.Join(cells, "\t") + "\n")
			}
			if err != nil {
				return errors.Join(err, rows.Close())
			}
		}
		if err := rows.Close(); err != nil {
			return err
		}
	}
	return nil
}
