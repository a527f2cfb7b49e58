package letter

import "strings"

// Signature is one of several signatures of an account.
type Signature struct {
	Name string `json:"name" maxLength:"200"`
	Text string `json:"text" maxLength:"20000"`
	// Block is what ends a letter that has it; it is not kept.
	Block string `json:"block,omitempty" doc:"What ends a letter that has it; it can't be set"`
}

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
