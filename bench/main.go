// Command bench takes the figures of docs/figures and writes them to
// bench/latest.md: each beside its floor, taken in the same run.
package main

import (
	"context"
	"fmt"
	"log"
	"os"
	"runtime"
	"runtime/pprof"
	"slices"
	"strings"
	"time"
)

// figure is one line of the table.
type figure struct{ what, got, floor, reach string }

type run struct {
	ctx     context.Context
	folder  string
	letters int // the large size, 100,000 unless EBBE_BENCH_LETTERS says otherwise
	figures []figure
}

func (r *run) add(what, got, floor, reach string) {
	r.figures = append(r.figures, figure{what, got, floor, reach})
	log.Printf("%s: %s (floor: %s; to reach: %s)", what, got, floor, reach)
}

func main() {
	log.SetFlags(log.Ltime)
	var err error
	folder := os.Getenv("EBBE_BENCH_FOLDER") // it stays, so that a row is run again over the same letters
	if folder == "" {
		if folder, err = os.MkdirTemp("", "ebbe-bench-"); err != nil {
			log.Fatal(err)
		}
		defer os.RemoveAll(folder)
	}
	r := &run{ctx: context.Background(), folder: folder, letters: 100_000}
	if text := os.Getenv("EBBE_BENCH_LETTERS"); text != "" {
		if _, err := fmt.Sscan(text, &r.letters); err != nil {
			log.Fatal(err)
		}
	}
	steps := []struct {
		name string
		run  func() error
	}{{"importing", r.importing}, {"reading", r.reading}, {"deciding", r.deciding}, {"returning", r.returning}, {"delivering", r.delivering}, {"ruling", r.ruling}, {"indexing", r.indexing}, {"rest", r.rest}, {"page", r.page}, {"typing", r.typing}, {"writing", r.writing}, {"scale", r.scale}, {"signing", r.signingIn}, {"syncing", r.syncing}, {"looking", r.looking}}
	chosen := os.Args[1:]
	if file := os.Getenv("EBBE_BENCH_PROFILE"); file != "" {
		f, err := os.Create(file)
		if err != nil {
			log.Fatal(err)
		}
		if err := pprof.StartCPUProfile(f); err != nil {
			log.Fatal(err)
		}
		defer pprof.StopCPUProfile()
	}
	for _, step := range steps {
		if len(chosen) > 0 && !slices.Contains(chosen, step.name) || len(chosen) == 0 && (step.name == "scale" || step.name == "signing" || step.name == "syncing" || step.name == "looking") {
			continue
		}
		if err := step.run(); err != nil {
			log.Print("this step failed: ", err)
			r.add("a step failed", err.Error(), "", "")
		}
	}
	switch {
	case slices.Equal(chosen, []string{"scale"}):
		err = r.write("bench/scale.md", "make bench-scale")
	case len(chosen) == 0:
		err = r.write("bench/latest.md", "make bench")
	} // of some figures only the table of all stands
	if err != nil {
		log.Fatal(err)
	}
}

func (r *run) write(path, by string) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# Figures\n\nTaken %s with %s on %d processors, %d letters, SQLite synchronous=FULL. Made by `%s`.\n\n",
		time.Now().UTC().Format("2006-01-02 15:04"), runtime.Version(), runtime.NumCPU(), r.letters, by)
	b.WriteString("| what | got | floor, same run | to reach |\n|---|---|---|---|\n")
	for _, f := range r.figures {
		fmt.Fprintf(&b, "| %s | %s | %s | %s |\n", f.what, f.got, f.floor, f.reach)
	}
	return os.WriteFile(path, []byte(b.String()), 0o644) //nolint:gosec // a report
}

// times runs fn n times and gives the sorted durations.
func times(n int, fn func() error) ([]time.Duration, error) {
	out := make([]time.Duration, n)
	for i := range out {
		began := time.Now()
		if err := fn(); err != nil {
			return nil, err
		}
		out[i] = time.Since(began)
	}
	slices.Sort(out)
	return out, nil
}

func median(d []time.Duration) time.Duration { return d[len(d)/2] }
func p95(d []time.Duration) time.Duration    { return d[len(d)*95/100] }

func ms(d time.Duration) string { return fmt.Sprintf("%.2f ms", float64(d.Microseconds())/1000) }

func ratio(a, b time.Duration) float64 { return float64(a) / float64(max(b, 1)) }
