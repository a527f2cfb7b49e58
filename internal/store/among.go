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

func quoted[T ~string](values []T) string {
	list := make([]string, len(values))
	for i, v := range values {
		list[i] = "'" + string(v) + "'"
	}
	return strings.Join(list, ", ")
}
