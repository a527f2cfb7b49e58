package letter

// SignatureBlock is what ends a letter whose writer has a signature: the line “-- ”
// and the signature below it (RFC 3676, 4.3); nothing for none.
func SignatureBlock(signature string) string {
	if signature == "" {
		return ""
	}
	return "\n-- \n" + signature + "\n"
}
