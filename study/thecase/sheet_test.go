package thecase_test

import (
	"encoding/csv"
	"fmt"
	"math"
	"strconv"
	"strings"
	"testing"
	"time"

	"cleverniche/core/niche"
	"cleverniche/core/worth"
	"cleverniche/study/studytest"

	"github.com/xuri/excelize/v2"
)

// TestCashFlowsOfASpreadsheet writes the same articles as formulas, lets LibreOffice reckon them, and compares income
// by month, all so far, and the month from which the hours are earned back. Nothing is left to chance.
func TestCashFlowsOfASpreadsheet(t *testing.T) {
	const lead, visit, hours, bar, months = 3.0, 0.05, 5.0, 4.0, 24
	a := niche.Assumed{Begin: time.January, WeekHours: 6, LeadMonths: lead, Months: months, MostHours: 40, Chosen: 1,
		BarAnHour: bar, VisitFactor: 1}
	season := [12]float64{0.5, 0.5, 1, 1, 1, 1, 1, 1, 1, 1, 1.5, 1.5}
	var list []niche.Piece
	f := excelize.NewFile()
	defer f.Close()
	set := func(cell string, value any) {
		t.Helper()
		var err error
		if formula, is := value.(string); is {
			err = f.SetCellFormula("Sheet1", cell, formula)
		} else {
			err = f.SetCellValue("Sheet1", cell, value)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	// Columns: A month, B its season, C on an article each (row 1 when it is ready), then income, all so far, spent.
	for m := range months {
		set(fmt.Sprintf("A%d", m+2), m+1)
		set(fmt.Sprintf("B%d", m+2), season[m%12])
	}
	for i := range 8 {
		p := niche.Piece{Lead: fmt.Sprint(i), Searches: float64(700 + 150*i), PageOne: 1, TopFive: 1, Clicks: 0.08,
			PerVisit: worth.Range{Low: visit, Likely: visit, High: visit}, Hours: hours, Season: season}
		list = append(list, p)
		col, err := excelize.ColumnNumberToName(3 + i)
		if err != nil {
			t.Fatal(err)
		}
		set(col+"1", fmt.Sprintf("%d*%g/(%g*52/12)", i+1, hours, a.WeekHours))
		for m := range months {
			set(fmt.Sprintf("%s%d", col, m+2), fmt.Sprintf("IF($A%[2]d>%[1]s$1,%[3]g*%[4]g*%[5]g*$B%[2]d*"+
				"MIN(1,($A%[2]d-%[1]s$1)/%[6]g),0)", col, m+2, p.Searches, p.Clicks, visit, lead))
		}
	}
	for m := range months {
		set(fmt.Sprintf("K%d", m+2), fmt.Sprintf("SUM(C%[1]d:J%[1]d)", m+2))
		set(fmt.Sprintf("L%d", m+2), fmt.Sprintf("SUM(K$2:K%d)", m+2))
		set(fmt.Sprintf("M%d", m+2), fmt.Sprintf("IF(AND(L%[1]d>=%[2]g,A%[1]d*%[3]g*52/12>=%[4]g),1,0)", m+2, bar*hours*8,
			a.WeekHours, hours*8))
	}
	set("N1", fmt.Sprintf("IFERROR(MATCH(1,M2:M%d,0),%d)", months+1, months+1))
	file, err := f.WriteToBuffer()
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(strings.NewReader(studytest.Opened(t, file.Bytes(), "case.xlsx", "csv"))).ReadAll()
	if err != nil || len(rows) != months+1 {
		t.Fatalf("%d rows, %v", len(rows), err)
	}
	e, err := niche.Earn(list, a)
	if err != nil || e.Pieces != 8 {
		t.Fatalf("%+v, %v", e, err)
	}
	for m, row := range rows[1:] {
		for at, want := range map[int]float64{10: e.Months[m].Income.Likely, 11: e.Months[m].Sum.Likely} {
			if got, err := strconv.ParseFloat(row[at], 64); err != nil || math.Abs(got-want) > 0.01 {
				t.Errorf("month %d: the spreadsheet has %s, Earn %.4f", m+1, row[at], want)
			}
		}
	}
	if back := rows[0][13]; back != fmt.Sprint(int(e.Back.Likely)) || e.Back.Likely > months {
		t.Errorf("earned back in month %s by the spreadsheet, in %g by Earn", back, e.Back.Likely)
	}
}
