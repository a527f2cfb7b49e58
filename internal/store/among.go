package store

import "strings"

// among is the condition that a column holds one of the values that the core
// names, or, with not, none of them. They are words of the core's own.
func among[T ~string](column string, values []T) string {
	return column + " IN (" + quoted(values) + ")"
}

func notAmong[T ~string](column string, values []T) string {
	return column + " NOT IN (" + quoted(values) + ")"
}

// is is the condition that a column holds a value that the core names. It stands in the text,
// since an index of some of the rows serves none for a value that is bound.
func is[T ~string](column string, value T) string { return column + " = " + quoted([]T{value}) }

func quoted[T ~string](values []T) string {
	list := make([]string, len(values))
	for i, v := range values {
		list[i] = "'" + strings.ReplaceAll(string(v), "'", "''") + "'"
	}
	return strings.Join(list, ", ")
}
