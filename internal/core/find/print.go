package find

import "strings"

// String writes a query as it can be typed; read at the same time, it is the same query.
func (q Query) String() string {
	switch q.Op {
	case Is:
		return q.Term.String()
	case Not:
		return "-" + q.Of[0].within()
	}
	between := " "
	if q.Op == Any {
		between = " or "
	}
	parts := make([]string, len(q.Of))
	for i, p := range q.Of {
		parts[i] = p.within()
	}
	return strings.Join(parts, between)
}

// within is the query as a part of another one.
func (q Query) within() string {
	if (q.Op == All || q.Op == Any) && len(q.Of) > 1 {
		return "(" + q.String() + ")"
	}
	return q.String()
}

// String writes a term as it can be typed.
func (t Term) String() string {
	value := t.Value
	if t.Exact || strings.ContainsAny(value, ` ()"`) {
		value = `"` + value + `"`
	}
	if t.Field == Words {
		return value
	}
	return string(t.Field) + ":" + value
}
