package frame

import (
	"bufio"
	"context"
	"errors"
	"io"
	"net/url"
	"os"
	"runtime/debug"
	"strings"
	"time"

	"cleverniche/study/briefs"

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
	r.attach(name)
	r.Set(fiber.HeaderContentType, media) // Attachment guesses another one
	return r.SendStream(file, int(size))  // which closes it
}

// enough is how much of a stream is made before it is sent: what goes wrong at once is told as usual.
const enough = 32 << 10

// Stream sends what is written while it is written, of any size. What goes wrong after the first of it ends the
// connection, so that nobody takes a part for the whole; whoever is gone ends the writing. write must not use the
// request, which is over by then.
func (r *Request) Stream(name, media string, write func(ctx context.Context, w io.Writer) error) error {
	if r.Method() == fiber.MethodHead { // nobody would read it
		r.attach(name)
		r.Set(fiber.HeaderContentType, media)
		return nil
	}
	ctx, cancel := context.WithCancel(context.WithoutCancel(r.Context()))
	out, in := io.Pipe()
	ended := make(chan error, 1)
	conn, log := r.RequestCtx().Conn(), r.Log
	go func() {
		err := errors.New("it was not written to its end") // unless it was
		defer func() {                                     // a panic here would end the program: nobody else catches it
			if p := recover(); p != nil {
				log.Error("panic while writing a file", "panic", p, "stack", string(debug.Stack()))
			}
			in.CloseWithError(err)
			ended <- err
		}()
		buffered := bufio.NewWriterSize(in, enough)
		if wrote := write(ctx, buffered); wrote != nil {
			err = wrote
			return
		}
		err = buffered.Flush()
	}()
	first := make([]byte, enough)
	n, err := io.ReadFull(out, first)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		cancel()
		return err
	}
	r.attach(name)
	r.Set(fiber.HeaderContentType, media) // Attachment guesses another one
	return r.SendStreamWriter(func(w *bufio.Writer) {
		defer cancel()
		_, err := w.Write(first[:n])
		if err == nil {
			_, err = io.Copy(w, out)
		}
		if err == nil {
			return
		}
		cancel()
		out.CloseWithError(io.ErrClosedPipe) // or it would be written to still
		if failed := <-ended; failed != nil && !errors.Is(failed, io.ErrClosedPipe) {
			log.Error("writing a file", "error", failed)
			conn.Close()
		}
	})
}

// FileName is a name for a file of the niche's: the niche, what it is, and the day.
func (r *Request) FileName(what, ending string) string {
	return briefs.FileName(r.Niche.Name) + "-" + what + "-" + r.Now().Format(time.DateOnly) + "." + ending
}

// attach lets browsers keep what is sent as a file of a name in any script (RFC 6266; RFC 8187).
func (r *Request) attach(name string) {
	plain := strings.Map(func(c rune) rune {
		if c < 0x20 || c > 0x7e || c == '"' || c == '\\' {
			return '_'
		}
		return c
	}, name)
	value := `attachment; filename="` + plain + `"`
	if plain != name {
		value += "; filename*=UTF-8''" + url.PathEscape(name)
	}
	r.Set(fiber.HeaderContentDisposition, value)
}
