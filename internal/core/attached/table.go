package attached

import (
	"encoding/csv"
	"path"
	"strings"
)

// The bounds of a table that is shown: rows, columns, and signs of a cell.
const (
	MaxRows  = 60
	maxCols  = 24
	maxSigns = 200
)

// InRows tells whether a file is a table in text: by its name, whatever its media type (mailers send such as one of a
// spreadsheet, or as any file), or by that.
func InRows(name, contentType string) bool {
	switch strings.ToLower(path.Ext(name)) {
	case ".csv", ".tsv":
		return true
	}
	return SortOf(name, contentType) == Table && strings.HasPrefix(contentType, "text/")
}

// Rows are the first rows of a table in text (RFC 4180, and with semicolons or tabs between, as spreadsheets of
// half the world write it). more tells that there are others. What is no table at all is one of a single column.
func Rows(text string) (rows [][]string, more bool) {
	text = strings.TrimPrefix(text, "\ufeff")
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.LazyQuotes, r.FieldsPerRecord, r.ReuseRecord = between(text), true, -1, true
	for {
		record, err := r.Read()
		if err != nil {
			return rows, false
		}
		if len(rows) == MaxRows {
			return rows, true
		}
		row := make([]string, min(len(record), maxCols))
		for i := range row {
			row[i] = shortened(record[i])
		}
		rows = append(rows, row)
	}
}

// between is the sign that stands most often in the first line outside of quotation marks; of as many, the one
// that stands less often within cells.
func between(text string) rune {
	first, _, _ := strings.Cut(text, "\n")
	counts := map[rune]int{}
	quoted := false
	for _, r := range first {
		if r == '"' {
			quoted = !quoted
		} else if !quoted {
			counts[r]++
		}
	}
	best := ','
	for _, r := range []rune{';', '\t'} {
		if counts[r] > 0 && counts[r] >= counts[best] {
			best = r
		}
	}
	return best
}

func shortened(cell string) string {
	if r := []rune(cell); len(r) > maxSigns {
		return string(r[:maxSigns-1]) + "…"
	}
	return cell
}
