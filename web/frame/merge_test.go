package frame

import (
	"net/url"
	"testing"
)

func TestMerge(t *testing.T) {
	form := url.Values{was: {Filled(map[string]string{"a": "1", "b": "1", "c": "1", "d": "1"})}, "a": {"1"}, "b": {"2"},
		"c": {"2"}, "d": {"3"}, "e": {"5"}}
	theirs := Merge(form, map[string]string{"a": "9", "b": "1", "c": "9", "d": "3", "e": "4"})
	if len(theirs) != 1 || theirs["c"] != "9" {
		t.Errorf("changed by both: %v", theirs)
	}
	for field, want := range map[string]string{"a": "9", "b": "2", "c": "2", "d": "3", "e": "5"} {
		if form.Get(field) != want {
			t.Errorf("%s is %s", field, form.Get(field))
		}
	}
	plain := url.Values{"a": {"1"}}
	if Merge(plain, map[string]string{"a": "2"}) != nil || plain.Get("a") != "1" {
		t.Error("a form that says nothing is changed")
	}
}
