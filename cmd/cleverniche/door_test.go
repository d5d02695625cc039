package main

import (
	"log/slog"
	"testing"
	"time"

	"github.com/spf13/viper"
)

// TestWhoSignsIn: nobody on one's own address; everybody on any other, and behind a proxy, whose own address is ours;
// never in the clear.
func TestWhoSignsIn(t *testing.T) {
	for name, at := range map[string]struct {
		set     map[string]string
		signIn  bool
		secure  bool
		refused bool
	}{
		"one's own":          {map[string]string{}, false, false, false},
		"one's own, as said": {map[string]string{"sign-in": "yes"}, true, false, false},
		"any address":        {map[string]string{"listen": "0.0.0.0:0"}, false, false, true},
		"any, with a proxy":  {map[string]string{"listen": "0.0.0.0:0", "behind-proxy": "yes"}, true, true, false},
		"a proxy beside it":  {map[string]string{"behind-proxy": "yes"}, true, true, false},
		"any, to everybody": {map[string]string{"listen": "0.0.0.0:0", "anyone-may-do-everything": "yes"}, false, false,
			false},
		"a certificate alone":   {map[string]string{"tls-cert": "x"}, false, false, true},
		"no such certificate":   {map[string]string{"tls-cert": "/nowhere", "tls-key": "/nowhere"}, false, false, true},
		"ACME for nobody":       {map[string]string{"acme": "yes"}, false, false, true},
		"ACME and certificates": {map[string]string{"acme": "yes", "tls-cert": "x", "tls-key": "y"}, false, false, true},
	} {
		v := viper.New()
		v.Set("listen", "127.0.0.1:0")
		v.Set("data", t.TempDir()+"/d.db")
		for key, value := range at.set {
			v.Set(key, value)
		}
		d, err := config{v, "", time.Now}.listen(slog.New(slog.DiscardHandler))
		if (err != nil) != at.refused {
			t.Errorf("%s: %v", name, err)
		}
		if err != nil {
			continue
		}
		d.listener.Close()
		if d.signIn != at.signIn || d.secure != at.secure {
			t.Errorf("%s: signs in %v, secure %v", name, d.signIn, d.secure)
		}
	}
}
