package market

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"io"
	"os"
	"reflect"
	"testing"
)

// TestJSONPathByTheSuite: paths of described answers select what RFC 9535 says, by the compliance test suite of its
// authors (testdata/jsonpath): read as an answer is read, and refused where a description is.
func TestJSONPathByTheSuite(t *testing.T) {
	packed, err := os.Open("testdata/jsonpath/cts.json.gz")
	if err != nil {
		t.Fatal(err)
	}
	defer packed.Close()
	z, err := gzip.NewReader(packed)
	if err != nil {
		t.Fatal(err)
	}
	text, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	var suite struct {
		Tests []struct {
			Name, Selector string
			Document       json.RawMessage
			Result         []any
			Results        [][]any // any of them, where the order is open
			Invalid        bool    `json:"invalid_selector"`
		}
	}
	if err := json.Unmarshal(text, &suite); err != nil {
		t.Fatal(err)
	}
	valid, invalid := 0, 0
	for _, c := range suite.Tests {
		shape := AnswerShape{Format: "json", Rows: c.Selector}
		err := shape.compile()
		if c.Invalid {
			if invalid++; err == nil {
				t.Errorf("%s: “%s” is taken", c.Name, c.Selector)
			}
			continue
		}
		valid++
		if err != nil {
			t.Errorf("%s: %v", c.Name, err)
			continue
		}
		doc, err := shape.parse(c.Document)
		if err != nil {
			t.Errorf("%s: %v", c.Name, err)
			continue
		}
		got := []any{}
		for _, r := range doc.rows(c.Selector) {
			body, err := json.Marshal(r.(jsonPart).v)
			var v any
			if err != nil || json.NewDecoder(bytes.NewReader(body)).Decode(&v) != nil {
				t.Fatalf("%s: %s, %v", c.Name, body, err)
			}
			got = append(got, v)
		}
		same := c.Results == nil && reflect.DeepEqual(got, append([]any{}, c.Result...))
		for _, one := range c.Results {
			same = same || reflect.DeepEqual(got, append([]any{}, one...))
		}
		if !same {
			t.Errorf("%s: “%s” of %s is %v", c.Name, c.Selector, c.Document, got)
		}
	}
	t.Logf("%d selectors, %d invalid ones", valid, invalid)
	if valid < 400 || invalid < 200 {
		t.Error("the suite is not whole")
	}
}
