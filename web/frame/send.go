package frame

import (
	"bufio"
	"io"
	"os"

	"github.com/gofiber/fiber/v3"
)

// SendFile sends what is written as a file of a name and a media type. It is written to a file of
// its own first, so that its size does not matter, and what goes wrong is told instead.
func (r *Request) SendFile(name, media string, write func(io.Writer) error) error {
	file, err := os.CreateTemp("", "cleverniche-*")
	if err != nil {
		return err
	}
	os.Remove(file.Name()) // it lives as long as it is open
	out := bufio.NewWriterSize(file, 1<<16)
	if err = write(out); err == nil {
		err = out.Flush()
	}
	size, err1 := file.Seek(0, io.SeekEnd)
	_, err2 := file.Seek(0, io.SeekStart)
	for _, err := range []error{err, err1, err2} {
		if err != nil {
			file.Close()
			return err
		}
	}
	r.Attachment(name)
	r.Set(fiber.HeaderContentType, media) // Attachment guesses another one
	return r.SendStream(file, int(size))  // which closes it
}
