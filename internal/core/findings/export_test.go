package findings

// SumsIn are the sums of one line.
var SumsIn = sumsIn
