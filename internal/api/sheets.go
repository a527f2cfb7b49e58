package api

import (
	"bytes"
	"context"
	"encoding/csv"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeSheets registers the accounts of days.
func (s *server) describeSheets(a huma.API) {
	operation(s, a, http.MethodGet, "/api/day-sheet", "day-sheet", "The account of a day", func(ctx context.Context, who store.Who, in *struct {
		Date string `query:"date" maxLength:"40" doc:"2006-01-02; today without it"`
	}) (show.DaySheet, error) {
		return s.App.DaySheet(ctx, who, in.Date)
	})
	operation(s, a, http.MethodGet, "/api/days", "days", "The account of a week, month or year", func(ctx context.Context, who store.Who, in *struct {
		Of   show.Stretch `query:"of" enum:"week,month,year" default:"week"`
		Date string       `query:"date" maxLength:"40" doc:"A day of it, 2006-01-02; today without it"`
	}) (show.Days, error) {
		return s.App.Days(ctx, who, in.Of, in.Date)
	})
	operation(s, a, http.MethodGet, "/api/since", "since", "What has changed since the first full week", func(ctx context.Context, who store.Who, _ *none) (show.Since, error) {
		return s.App.Since(ctx, who)
	})
}

// sheetRoutes are the accounts of days as files.
func (s *server) sheetRoutes() []rawRoute {
	return []rawRoute{
		{http.MethodGet, "/api/day-sheet/file", "day-sheet-file", "The account of a day as Markdown", map[string]string{"date": "2006-01-02; today without it"}, "", "text/markdown", false, s.sheetFile},
		{http.MethodGet, "/api/days/file", "days-file", "The account of a week, month or year as CSV", map[string]string{"of": "week, month or year; month without it", "date": "A day of it; today without it"}, "", "text/csv", false, s.daysFile},
	}
}

func (s *server) sheetFile(c *gin.Context, who store.Who) error {
	sheet, err := s.App.DaySheet(c.Request.Context(), who, c.Query("date"))
	if err != nil {
		return err
	}
	attach(c, "attachment", "Day sheet "+sheet.Date+".md")
	c.Data(http.StatusOK, "text/markdown; charset=utf-8", []byte(sheet.Markdown()))
	return nil
}

func (s *server) daysFile(c *gin.Context, who store.Who) error {
	days, err := s.App.Days(c.Request.Context(), who, show.Stretch(c.DefaultQuery("of", string(show.AMonth))), c.Query("date"))
	if err != nil {
		return err
	}
	var text bytes.Buffer
	w := csv.NewWriter(&text)
	w.UseCRLF = true // RFC 4180
	if err := w.WriteAll(days.CSV()); err != nil {
		return err
	}
	attach(c, "attachment", "Days of "+days.Label+".csv")
	c.Data(http.StatusOK, "text/csv; charset=utf-8", text.Bytes())
	return nil
}
