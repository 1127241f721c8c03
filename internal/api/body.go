package api

import (
	"fmt"
	"net/http"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/gin-gonic/gin"
)

// bodyExtension of an operation bounds what is sent to it, in bytes; ordinaryBody is the bound where it states none.
const (
	bodyExtension = "x-largest-body"
	ordinaryBody  = 64 << 10
)

// fileWithin is how long a file may take to come.
const fileWithin = 10 * time.Minute

// fileType is the media type in which files are sent.
const fileType = "application/octet-stream"

// takes is what an operation takes: one media type, or nothing, and how much of it.
type takes struct {
	media string
	most  int64
}

func takesOf(op *openapi3.Operation) (takes, error) {
	t := takes{most: ordinaryBody}
	if op.RequestBody == nil {
		return t, nil
	}
	for media := range op.RequestBody.Value.Content {
		if t.media != "" {
			return t, fmt.Errorf("%s takes more than one media type", op.OperationID)
		}
		t.media = media
	}
	switch n := op.Extensions[bodyExtension].(type) {
	case float64:
		t.most = int64(n)
	case nil:
		if t.media == fileType {
			return t, fmt.Errorf("%s takes a file and states no bound", op.OperationID)
		}
	default:
		return t, fmt.Errorf("%s states its bound as %v", op.OperationID, n)
	}
	return t, nil
}

// bound refuses what an operation does not take, before any of it is read; false when it has answered.
func (t takes) bound(c *gin.Context) bool {
	r := c.Request
	if r.ContentLength == 0 || r.Body == nil || r.Body == http.NoBody {
		return true
	}
	switch {
	case t.media == "":
		writeProblem(c.Writer, r, http.StatusUnsupportedMediaType, "This address takes no content.", nil)
	case c.ContentType() != t.media:
		writeProblem(c.Writer, r, http.StatusUnsupportedMediaType, "This address takes "+t.media+" only.", nil)
	case r.ContentLength > t.most:
		writeProblem(c.Writer, r, http.StatusRequestEntityTooLarge, "This is larger than "+size(t.most)+".", nil)
	default:
		r.Body = http.MaxBytesReader(c.Writer, r.Body, t.most)
		if t.media == fileType {
			// A large file over a slow line takes its time; who sends it was asked for before.
			_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(fileWithin))
		}
		return true
	}
	// What was sent is not read; the connection ends with the answer.
	c.Header("Connection", "close")
	return false
}

// size says a number of bytes.
func size(n int64) string {
	if n < 1<<20 {
		return fmt.Sprintf("%d kB", n>>10)
	}
	return fmt.Sprintf("%d MB", n>>20)
}
