package calc

import (
	"bytes"
	"encoding/json"
	"regexp"
	"strconv"
	"strings"
)

// placeAt is the path of the value that ends at, or holds, a byte of a JSON text, as its writer named it: sides[1].rate.
func placeAt(raw []byte, offset int64) string {
	type level struct {
		list, named bool
		index       int
		key         string
	}
	var open []level
	dec := json.NewDecoder(bytes.NewReader(raw))
	path := func() string {
		var b strings.Builder
		for _, l := range open {
			switch {
			case l.list:
				b.WriteString("[" + strconv.Itoa(l.index) + "]")
			case b.Len() > 0:
				b.WriteString("." + l.key)
			default:
				b.WriteString(l.key)
			}
		}
		return b.String()
	}
	// done is called after each value: the next in a list, or the next name, follows.
	done := func() {
		if n := len(open); n > 0 {
			open[n-1].index++
			open[n-1].named = false
		}
	}
	for {
		t, err := dec.Token()
		if err != nil {
			return path()
		}
		at := len(open) - 1
		switch v := t.(type) {
		case json.Delim:
			switch v {
			case '{', '[':
				if dec.InputOffset() >= offset {
					return path()
				}
				open = append(open, level{list: v == '['})
				continue
			default:
				open = open[:at]
			}
		case string:
			if at >= 0 && !open[at].list && !open[at].named {
				open[at].key, open[at].named = v, true
				continue
			}
		}
		if dec.InputOffset() >= offset {
			return path()
		}
		done()
	}
}

// listed are the numbers in lists of a path.
var listed = regexp.MustCompile(`\[\d+\]`)

// placeOf is the path of a value that could not be read. Where the value's own reader refused it, the decoder knows the names above it
// but not the place in a list; the value itself then tells.
func placeOf(wrong *json.UnmarshalTypeError, raw []byte) string {
	if wrong.Offset > 0 {
		return placeAt(raw, wrong.Offset)
	}
	for from := 0; ; {
		i := bytes.Index(raw[from:], []byte(wrong.Value))
		if i < 0 || wrong.Value == "" {
			return wrong.Field
		}
		from += i + len(wrong.Value)
		if at := placeAt(raw, int64(from)); listed.ReplaceAllString(at, "") == wrong.Field {
			return at
		}
	}
}
