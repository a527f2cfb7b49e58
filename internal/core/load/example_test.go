package load_test

import (
	"fmt"
	"time"

	"ebbe.example/ebbe/internal/core/load"
)

// Six letters go where there is room: the first day is nearly full.
func ExampleSpread() {
	days := []load.Day{
		{Planned: 50 * time.Minute, Free: time.Hour},
		{Planned: 10 * time.Minute, Free: time.Hour},
		{Free: 0}, // a day off
		{Planned: 20 * time.Minute, Free: time.Hour},
	}
	fmt.Println(load.Spread(days, 6, 10*time.Minute))
	// Output: [1 1 1 1 3 3]
}
