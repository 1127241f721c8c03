//go:build js && wasm

// Command corewasm is the core for the browser: the same functions and the same JSON as nextround calc, so that a visit
// without network and a dragged handle need no second implementation.
package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"strings"
	"syscall/js"

	"nextround/core/invalid"
	"nextround/internal/calc"
)

// answer is the result, or the fields that are wrong.
type answer struct {
	Result json.RawMessage `json:"result,omitempty"`
	Fields invalid.Error   `json:"fields,omitempty"`
	Error  string          `json:"error,omitempty"`
}

func main() {
	js.Global().Set("nextroundCore", js.FuncOf(func(_ js.Value, args []js.Value) any {
		out, err := json.Marshal(run(args[0].String(), args[1].String()))
		if err != nil {
			return `{"error":"the answer cannot be written"}`
		}
		return string(out)
	}))
	select {} // the functions live as long as the page
}

func run(name, in string) answer {
	topic, ok := calc.ByName(name)
	if !ok {
		return answer{Error: "there is no topic " + name}
	}
	var out bytes.Buffer
	err := topic.Run(strings.NewReader(in), &out)
	var fields invalid.Error
	switch {
	case errors.As(err, &fields):
		return answer{Fields: fields, Error: err.Error()}
	case err != nil:
		return answer{Error: err.Error()}
	}
	return answer{Result: out.Bytes()}
}
