package review_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/review"
)

// Three letters came at nine, and all were decided by ten: low water.
func ExampleTideOf() {
	at := func(hour, minute int) time.Time { return time.Date(2026, 11, 24, hour, minute, 0, 0, time.UTC) }
	var nine, ten review.Minute
	for i, step := range []int{1, 1, 1} {
		nine.Add(at(9, 0).Add(time.Duration(i)*time.Second), step)
	}
	ten.Add(at(10, 0), -3)
	minutes := []review.Minute{nine, ten}
	tide := review.TideOf(at(4, 0), at(12, 0), 0, minutes)
	for _, p := range tide.Curve {
		fmt.Println(p.At.Format("15:04"), p.Count)
	}
	fmt.Println("high mark", tide.High, "low water", tide.Zeros[0].Format("15:04"))
	// Output:
	// 04:00 0
	// 09:00 3
	// 10:00 0
	// 12:00 0
	// high mark 3 low water 10:00
}
