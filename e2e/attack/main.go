// Command attack tries on a started server what somebody with bad intent would, and prints what held. Run it by make attack.
package main

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"nextround/internal/demo"
	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "attack:", err)
		os.Exit(1)
	}
}

// target is the server that is attacked.
type target struct {
	url, address string
	cmd          *exec.Cmd
	database     string
	idle         int64 // memory before anything was sent, in kB
	failed       int
}

func run() error {
	ctx := context.Background()
	cluster, end, err := pgtest.StartCluster(ctx)
	if err != nil {
		return err
	}
	defer end()
	if err := store.Migrate(ctx, cluster); err != nil {
		return err
	}
	if err := demo.Fill(cluster); err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "nextround-attack-")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	binary := filepath.Join(dir, "nextround")
	if out, err := exec.Command("go", "build", "-o", binary, "nextround/cmd/nextround").CombinedOutput(); err != nil { //nolint:gosec,noctx // our own
		return fmt.Errorf("%s", out)
	}
	t := &target{database: cluster}
	if err := t.start(binary); err != nil {
		return err
	}
	defer func() { _ = t.cmd.Process.Kill() }()
	t.attack()
	t.stopsInTime()
	out, err := exec.Command(binary, "audit", "verify", "--database", cluster).CombinedOutput() //nolint:gosec,noctx // our own
	t.told("the audit trail is whole", err == nil, strings.TrimSpace(string(out)))
	if t.failed > 0 {
		return fmt.Errorf("%d did not hold", t.failed)
	}
	return nil
}

func (t *target) told(what string, held bool, detail string) {
	word := "held    "
	if !held {
		word = "DID NOT "
		t.failed++
	}
	fmt.Printf("%s %s: %s\n", word, what, detail)
}

func (t *target) start(binary string) error {
	t.cmd = exec.Command(binary, "serve", "--database", t.database, "--listen", "127.0.0.1:0", "--log-level", "error") //nolint:gosec,noctx // our own
	out, err := t.cmd.StdoutPipe()
	if err != nil {
		return err
	}
	t.cmd.Stderr = os.Stderr
	if err := t.cmd.Start(); err != nil {
		return err
	}
	found := make(chan string, 1)
	go func() {
		var text strings.Builder
		buf := make([]byte, 512)
		for {
			n, err := out.Read(buf)
			text.Write(buf[:n])
			if m := regexp.MustCompile(`http://(\S+)`).FindStringSubmatch(text.String()); m != nil {
				found <- m[1]
				_, _ = io.Copy(io.Discard, out)
				return
			}
			if err != nil {
				return
			}
		}
	}()
	select {
	case t.address = <-found:
	case <-time.After(time.Minute):
		return fmt.Errorf("the server did not start")
	}
	t.url = "http://" + t.address
	t.idle = t.memory("VmRSS")
	return nil
}

// memory is a figure of the server's in kB.
func (t *target) memory(name string) int64 {
	text, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", t.cmd.Process.Pid))
	m := regexp.MustCompile(name + `:\s+(\d+)`).FindSubmatch(text)
	if m == nil {
		return 0
	}
	n, _ := strconv.ParseInt(string(m[1]), 10, 64)
	return n
}

// peakOf is the most memory above idle that the server takes while do runs, in MB.
func (t *target) peakOf(do func()) int64 {
	_ = os.WriteFile(fmt.Sprintf("/proc/%d/clear_refs", t.cmd.Process.Pid), []byte("5"), 0o200) // resets VmHWM
	do()
	return (t.memory("VmHWM") - t.idle) >> 10
}

// as is a browser of somebody who signed in; nobody for an empty login.
func (t *target) as(login string) *http.Client {
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar, Timeout: 3 * time.Minute}
	if login != "" {
		status, _ := t.send(c, "POST", "/session", "application/json", []byte(`{"login":"`+login+`","password":"`+demo.Password+`"}`))
		if status != http.StatusOK {
			fmt.Println("cannot sign in:", status)
		}
	}
	return c
}

func (t *target) send(c *http.Client, method, path, media string, body []byte) (int, string) {
	r, err := http.NewRequestWithContext(context.Background(), method, t.url+"/api/v1"+path, bytes.NewReader(body))
	if err != nil {
		return 0, err.Error()
	}
	r.Header.Set("Content-Type", media)
	r.Header.Set("Idempotency-Key", store.NewID().String())
	res, err := c.Do(r)
	if err != nil {
		return 0, err.Error()
	}
	defer func() { _ = res.Body.Close() }()
	answer, _ := io.ReadAll(io.LimitReader(res.Body, 1<<20))
	return res.StatusCode, string(answer)
}

const mostMemory = 200 // MB above idle, whatever anybody sends

func (t *target) attack() {
	manager := t.as("manager")
	status, _ := t.send(manager, "POST", "/sites", "application/octet-stream", []byte(`{"name":7}`))
	t.told("a media type that is not declared", status == 415, fmt.Sprint(status))

	for name, c := range map[string]struct {
		path, media string
		body        []byte
		says        string // what shows that it got as far as it should
	}{
		"59 MB to the sign-in":                              {"/session", "application/json", []byte(`{"login":"` + strings.Repeat("x", 59<<20) + `"}`), "larger than"},
		"a picture of 8,000 × 8,000 pixels in a small file": {"/attachments?entity=unit&entity_id=" + t.unit(manager) + "&kind=photo&name=x", "application/octet-stream", smallPicture(), "more than can be opened"},
		"a spreadsheet that unpacks to 130 MB":              {"/imports?dry_run=true", "application/octet-stream", smallSheet(5_000_000, `<row><c><v>1</v></c></row>`), "running"},
		"a spreadsheet of a million cells":                  {"/imports?dry_run=true", "application/octet-stream", smallSheet(1_000_000, `<row><c t="inlineStr"><is><t>a</t></is></c></row>`), "running"},
		"200,000 answers of a grader":                       {"/graders", "application/json", []byte(`{"seed":1,"said":[` + strings.Repeat("2,", 199_999) + `2]}`), ""},
	} {
		var status int
		var answer string
		start := time.Now()
		peak := t.peakOf(func() {
			status, answer = t.send(manager, "POST", c.path, c.media, c.body)
			t.settled(manager)
		})
		held := peak <= mostMemory && status != 0 && status != 500 && strings.Contains(answer, c.says)
		t.told(name, held, fmt.Sprintf("answered %d, %d MB above idle, %.1f s", status, peak, time.Since(start).Seconds()))
	}

	var looked, refused atomic.Int64
	peak := t.peakOf(func() {
		var group sync.WaitGroup
		for range 100 {
			group.Go(func() {
				switch status, _ := t.send(t.as(""), "POST", "/session", "application/json", []byte(`{"login":"viewer","password":"guess"}`)); status {
				case 401:
					looked.Add(1)
				case 429:
					refused.Add(1)
				}
			})
		}
		group.Wait()
	})
	t.told("100 guesses at once", looked.Load() <= 6 && peak <= mostMemory, fmt.Sprintf("%d were looked at, %d refused, %d MB above idle", looked.Load(), refused.Load(), peak))
	t.slow(manager)
}

func (t *target) unit(c *http.Client) string {
	_, body := t.send(c, "GET", "/portfolio", "", nil)
	var page struct {
		Rows []struct {
			UnitID string `json:"unit_id"`
		}
	}
	_ = json.Unmarshal([]byte(body), &page)
	if len(page.Rows) == 0 {
		return ""
	}
	return page.Rows[0].UnitID
}

// settled waits until no import runs.
func (t *target) settled(c *http.Client) {
	for range 600 {
		if _, body := t.send(c, "GET", "/imports", "", nil); !strings.Contains(body, `"status":"running"`) {
			return
		}
		time.Sleep(200 * time.Millisecond)
	}
}

// slow opens connections that send their bodies drop by drop, and others that send nothing.
func (t *target) slow(manager *http.Client) {
	const slowBodies, idle = 400, 50
	var open atomic.Int64
	var group sync.WaitGroup
	began := time.Now()
	for i := range slowBodies + idle {
		group.Go(func() {
			conn, err := (&net.Dialer{}).DialContext(context.Background(), "tcp", t.address)
			if err != nil {
				return
			}
			defer func() { _ = conn.Close() }()
			open.Add(1)
			defer open.Add(-1)
			if i < slowBodies {
				_, _ = fmt.Fprintf(conn, "POST /api/v1/session HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 1000\r\n\r\n{")
				go func() {
					for {
						time.Sleep(5 * time.Second)
						if _, err := conn.Write([]byte(" ")); err != nil {
							return
						}
					}
				}()
			} else {
				_, _ = fmt.Fprintf(conn, "GET /healthz HTTP/1.1\r\nHost: x\r\n\r\n")
			}
			_ = conn.SetReadDeadline(time.Now().Add(2 * time.Minute))
			_, _ = io.Copy(io.Discard, conn)
		})
	}
	time.Sleep(3 * time.Second)
	status, _ := t.send(manager, "GET", "/session", "", nil)
	t.told("others are served meanwhile", status == 200, fmt.Sprint(status))
	group.Wait()
	took := time.Since(began)
	t.told("400 slow bodies and 50 idle connections are gone", took <= 61*time.Second, fmt.Sprintf("after %.0f s", took.Seconds()))
}

// stopsInTime sends a large import and stops the server in the middle of it.
func (t *target) stopsInTime() {
	var file bytes.Buffer
	file.WriteString("site,placement,tag,class,coil role,last clean\n")
	for i := range 20_000 {
		fmt.Fprintf(&file, "Attack,Yard,ATT-%05d,Ice machine,condenser,2025-01-01\n", i)
	}
	manager := t.as("manager")
	status, _ := t.send(manager, "POST", "/imports", "application/octet-stream", file.Bytes())
	time.Sleep(3 * time.Second)
	_, list := t.send(manager, "GET", "/imports", "", nil)
	running := strings.Contains(list, `"status":"running"`)
	began := time.Now()
	_ = t.cmd.Process.Signal(syscall.SIGTERM)
	err := t.cmd.Wait()
	took := time.Since(began)
	t.told("stopping in the middle of an import", err == nil && running && took <= 10*time.Second, fmt.Sprintf("import answered %d, ended after %.1f s, %v", status, took.Seconds(), t.cmd.ProcessState))
}

func smallPicture() []byte {
	var out bytes.Buffer
	_ = png.Encode(&out, image.NewPaletted(image.Rect(0, 0, 8000, 8000), color.Palette{color.Black, color.White}))
	return out.Bytes()
}

func smallSheet(times int, row string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	add := func(name, text string) io.Writer {
		w, _ := z.Create(name)
		_, _ = io.WriteString(w, text)
		return w
	}
	add("[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>`)
	add("_rels/.rels", `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`)
	add("xl/workbook.xml", `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>`)
	add("xl/_rels/workbook.xml.rels", `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`)
	w := add("xl/worksheets/sheet1.xml", `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData><row r="1"><c r="A1" t="inlineStr"><is><t>site</t></is></c></row>`)
	for range times {
		_, _ = io.WriteString(w, row)
	}
	_, _ = io.WriteString(w, `</sheetData></worksheet>`)
	_ = z.Close()
	return out.Bytes()
}
