package rule

// Takes tells whether a rule would take a letter, whatever others there are.
func (r Rule) Takes(f Facts) bool {
	c, err := compile(r)
	return err == nil && c.takes(look(f))
}
