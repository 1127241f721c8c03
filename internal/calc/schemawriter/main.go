// Command schemawriter writes the JSON schemas of the calculation topics from their Go types: names from the tags, words from the
// comments, choices from the constants. make generate runs it. The schema of the topic visit is kept by hand: it stands for two
// bodies of the server's contract.
package main

import (
	"encoding/json"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"reflect"
	"strconv"
	"strings"
	"time"

	"nextround/core/calendar"
	"nextround/internal/calc"
)

func main() {
	if err := write("internal/calc/schemas"); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func write(dir string) error {
	w := writer{docs: map[string]*packageDocs{}}
	for _, t := range calc.Topics() {
		if t.Name == "visit" {
			continue
		}
		in, out := t.Types()
		input, output := w.schema(in, true), w.schema(out, false)
		if t.Many() {
			// Either one, or many in a list.
			input["properties"].(map[string]any)["cases"] = map[string]any{"type": "array", "items": w.schema(in, true), "description": "Many inputs at once, in place of all else."}
			output["properties"].(map[string]any)["cases"] = map[string]any{"type": "array", "items": w.schema(out, false), "description": "An output to each of the inputs."}
		}
		shape := map[string]any{
			"$schema": "https://json-schema.org/draft/2020-12/schema", "title": t.Name + ": " + t.Summary, "type": "object",
			"properties": map[string]any{"input": input, "output": output},
		}
		raw, err := json.MarshalIndent(shape, "", " ")
		if err != nil {
			return fmt.Errorf("the schema of %s: %w", t.Name, err)
		}
		if err := os.WriteFile(filepath.Join(dir, t.Name+".schema.json"), append(raw, '\n'), 0o600); err != nil {
			return fmt.Errorf("the schema of %s: %w", t.Name, err)
		}
	}
	return nil
}

// packageDocs are the comments of a package's fields, and the constants of its named types.
type packageDocs struct {
	fields  map[string]string // Type.Field
	choices map[string][]any  // Type
}

type writer struct{ docs map[string]*packageDocs }

func (w writer) schema(t reflect.Type, strict bool) map[string]any {
	switch {
	case t.Kind() == reflect.Pointer:
		return w.schema(t.Elem(), strict)
	case t == reflect.TypeFor[calendar.Day]():
		return map[string]any{"type": "string", "format": "date"}
	case t == reflect.TypeFor[time.Time]():
		return map[string]any{"type": "string", "format": "date-time"}
	}
	const fewChoices = 40 // a reason has hundreds of codes, which help nobody here
	if choices := w.of(t).choices[t.Name()]; len(choices) > 0 && len(choices) <= fewChoices && (t.Kind() == reflect.String || t.Kind() == reflect.Int) {
		return map[string]any{"enum": choices}
	}
	switch t.Kind() {
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Float64:
		return map[string]any{"type": "number"}
	case reflect.String:
		return map[string]any{"type": "string"}
	case reflect.Slice:
		return map[string]any{"type": "array", "items": w.schema(t.Elem(), strict)}
	case reflect.Array:
		return map[string]any{"type": "array", "items": w.schema(t.Elem(), strict), "minItems": t.Len(), "maxItems": t.Len()}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": w.schema(t.Elem(), strict)}
	case reflect.Struct:
		properties := map[string]any{}
		w.fields(t, strict, properties)
		out := map[string]any{"type": "object", "properties": properties}
		if strict {
			out["additionalProperties"] = false
		}
		return out
	case reflect.Interface:
		return map[string]any{}
	default:
		return map[string]any{"type": "integer"}
	}
}

func (w writer) fields(t reflect.Type, strict bool, into map[string]any) {
	for i := range t.NumField() {
		f := t.Field(i)
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		if name == "-" || !f.IsExported() {
			continue
		}
		if f.Anonymous && name == "" {
			w.fields(f.Type, strict, into)
			continue
		}
		s := w.schema(f.Type, strict)
		if doc := w.of(t).fields[t.Name()+"."+f.Name]; doc != "" {
			s["description"] = doc
		}
		into[name] = s
	}
}

// of reads the comments of the package a type is declared in.
func (w writer) of(t reflect.Type) *packageDocs {
	path, ours := strings.CutPrefix(t.PkgPath(), "nextround/")
	if !ours {
		return &packageDocs{}
	}
	if known := w.docs[path]; known != nil {
		return known
	}
	out := &packageDocs{fields: map[string]string{}, choices: map[string][]any{}}
	w.docs[path] = out
	files, _ := filepath.Glob(filepath.Join(path, "*.go"))
	set := token.NewFileSet()
	for _, name := range files {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		file, err := parser.ParseFile(set, name, nil, parser.ParseComments)
		if err != nil {
			continue // it compiles, or this command would not run
		}
		for _, d := range file.Decls {
			if g, ok := d.(*ast.GenDecl); ok {
				out.read(g)
			}
		}
	}
	return out
}

func (p *packageDocs) read(g *ast.GenDecl) {
	for _, s := range g.Specs {
		switch s := s.(type) {
		case *ast.TypeSpec:
			if shape, ok := s.Type.(*ast.StructType); ok {
				for _, f := range shape.Fields.List {
					for _, n := range f.Names {
						p.fields[s.Name.Name+"."+n.Name] = said(f)
					}
				}
			}
		case *ast.ValueSpec:
			of, named := s.Type.(*ast.Ident)
			if g.Tok != token.CONST || !named {
				continue
			}
			for _, v := range s.Values {
				if text, ok := v.(*ast.BasicLit); ok && text.Kind == token.STRING {
					value, _ := strconv.Unquote(text.Value)
					p.choices[of.Name] = append(p.choices[of.Name], value)
				}
			}
		}
	}
}

func said(f *ast.Field) string {
	text := f.Doc.Text()
	if text == "" {
		text = f.Comment.Text()
	}
	return strings.Join(strings.Fields(text), " ")
}
