package letter

import (
	"fmt"
	"io"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/htmlindex"
)

func charsetReader(name string, in io.Reader) (io.Reader, error) {
	enc := charsetByName(name)
	if enc == nil {
		return nil, fmt.Errorf("unknown charset %q", name)
	}
	return enc.NewDecoder().Reader(in), nil
}

func charsetByName(name string) encoding.Encoding {
	enc, err := htmlindex.Get(name)
	if err != nil {
		return nil
	}
	return enc
}
