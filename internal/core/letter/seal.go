package letter

import "strings"

// Seal says how a letter is signed or encrypted. Ebbe shows what it is, and
// neither verifies nor opens it.
type Seal struct {
	// Kind is "signed" or "encrypted"; "" for neither.
	Kind string `json:"kind,omitempty" enum:"signed,encrypted"`
	// By is the standard: S/MIME (RFC 8551) or OpenPGP (RFC 3156, RFC 9580).
	By string `json:"by,omitempty"`
}

// The standards of signing and encrypting.
const (
	sMIME   = "S/MIME"
	openPGP = "OpenPGP"
)

// sealOf recognises a seal by the type of a part.
func sealOf(contentType string, params map[string]string) Seal {
	protocol, smime := strings.ToLower(params["protocol"]), strings.ToLower(params["smime-type"])
	by := openPGP
	if strings.Contains(protocol, "pkcs7") {
		by = sMIME
	}
	switch contentType {
	case "multipart/signed":
		return Seal{"signed", by}
	case "multipart/encrypted":
		return Seal{"encrypted", by}
	case "application/pkcs7-mime", "application/x-pkcs7-mime":
		if strings.HasPrefix(smime, "signed") {
			return Seal{"signed", sMIME}
		}
		return Seal{"encrypted", sMIME}
	}
	return Seal{}
}

// or keeps the outermost seal.
func (s Seal) or(inner Seal) Seal {
	if s.Kind == "" {
		return inner
	}
	return s
}

// orInline recognises armour in the text itself (RFC 9580, 6.2).
func (s Seal) orInline(text string) Seal {
	switch {
	case s.Kind != "":
		return s
	case strings.Contains(text, "-----BEGIN PGP MESSAGE-----"):
		return Seal{"encrypted", openPGP}
	case strings.Contains(text, "-----BEGIN PGP SIGNED MESSAGE-----"):
		return Seal{"signed", openPGP}
	}
	return s
}
