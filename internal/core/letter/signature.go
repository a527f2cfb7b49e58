package letter

import "strings"

// SignatureBlock is what ends a letter whose writer has a signature: the line “-- ”
// and the signature below it (RFC 3676, 4.3); nothing for none.
func SignatureBlock(signature string) string {
	if signature == "" {
		return ""
	}
	return "\n" + signatureMark + "\n" + signature + "\n"
}

// CutSignature cuts a text at its last signature mark; the mark is in neither part.
func CutSignature(text string) (written, signature string) {
	mark := "\n" + signatureMark + "\n"
	if i := strings.LastIndex("\n"+text, mark); i >= 0 {
		return text[:i], strings.TrimRight(text[i+len(mark)-1:], "\n")
	}
	return text, ""
}
