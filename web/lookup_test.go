package web_test

import (
	"context"
	"net/http/httptest"
	"strings"
	"testing"

	"cleverniche/web/webtest"
)

func TestLargeUploadIsRefused(t *testing.T) {
	s := webtest.Open(t)
	r := httptest.NewRequest("POST", "/niches/1/import", strings.NewReader(strings.Repeat("x", 41<<20)))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	resp, err := s.App.Test(r)
	if err == nil && resp.StatusCode < 400 {
		t.Errorf("41 MB are taken: %d", resp.StatusCode)
	}
	if b, _ := s.Study.Ideas.Table(context.Background(), s.Niche); b.Len() != 0 {
		t.Error("something of it went in")
	}
}
