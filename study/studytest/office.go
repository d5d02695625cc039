package studytest

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// Opened is what LibreOffice makes of a file, as text; "" where it is not here. It is required where
// references are.
func Opened(t *testing.T, file []byte, name, to string) string {
	t.Helper()
	program, err := exec.LookPath("soffice")
	if err != nil {
		if os.Getenv("CLEVERNICHE_REFERENCES") == "required" {
			t.Fatal("LibreOffice is not here: scripts/need soffice …")
		}
		t.Skip("LibreOffice is not here")
	}
	dir := t.TempDir()
	path := filepath.Join(dir, name)
	if err := os.WriteFile(path, file, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command(program, "-env:UserInstallation=file://"+dir+"/profile", "--headless", "--convert-to", to,
		"--outdir", dir, path).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	text, err := os.ReadFile(strings.TrimSuffix(path, filepath.Ext(path)) + "." + to)
	if err != nil {
		t.Fatalf("it does not open the file: %s", out)
	}
	return string(text)
}
