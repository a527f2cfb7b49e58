package main

import (
	"fmt"

	"ebbe.example/ebbe/internal/core/learning"
	"ebbe.example/ebbe/internal/core/sorting"
)

func main() {
	for seed := uint64(1); seed <= 5; seed++ {
		letters, w, err := live(seed)
		if err != nil {
			panic(err)
		}
		var pn, pout, mn, mout, hn, hout, hp, hpout int
		thr := []float64{0.45, 0.5, 0.55, 0.6, 0.65, 0.7, 0.75}
		tp, fp := make([]int, 7), make([]int, 7)
		var pos, gtp, gfp, n int
		sender := map[string][2]int{}
		for _, l := range w.lessons {
			if m, ok := l.Outcome.Matters(); ok {
				c := sender[l.Sender]
				c[1]++
				if m {
					c[0]++
				}
				sender[l.Sender] = c
			}
		}
		for _, s := range letters {
			if s.Week <= learnedWeeks {
				continue
			}
			switch {
			case s.Kind == sorting.Person:
				pn++
				if s.verdict.Out {
					pout++
				}
				if s.Hard {
					hp++
					if s.verdict.Out {
						hpout++
					}
				}
			case s.Kind != junk:
				mn++
				if s.verdict.Out {
					mout++
				}
				if s.Hard {
					hn++
					if s.verdict.Out {
						hout++
					}
				}
			}
			m, ok := learning.Outcome(s.Became).Matters()
			if !ok || s.verdict.Out {
				continue
			}
			n++
			if m {
				pos++
			}
			for i, t := range thr {
				if s.chance >= t {
					if m {
						tp[i]++
					} else {
						fp[i]++
					}
				}
			}
			if c := sender[s.from]; 2*c[0] > c[1] {
				if m {
					gtp++
				} else {
					gfp++
				}
			}
		}
		fmt.Printf("seed %d: people %d out %d (hard %d out %d); machine %d out %d (hard %d out %d); corrections %d; inbox %d pos %d; guess p %.2f r %.2f\n", seed, pn, pout, hp, hpout, mn, mout, hn, hout, w.corrected, n, pos, float64(gtp)/float64(gtp+gfp), float64(gtp)/float64(pos))
		for i, t := range thr {
			fmt.Printf("   %.2f p %.2f r %.2f\n", t, float64(tp[i])/float64(tp[i]+fp[i]), float64(tp[i])/float64(pos))
		}
	}
}
