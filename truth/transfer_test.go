package truth

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ivelt/app"
	"ivelt/app/jobs"
	"ivelt/app/markets"
	"ivelt/core/market"
)

// oneParcel writes a market's folder with one parcel of about size bytes.
func oneParcel(t *testing.T, dir string, size int) market.Version {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.CreateHeader(&zip.FileHeader{Name: "Pack/48/folder.png", Method: zip.Store})
	require.NoError(t, err)
	r := rand.New(rand.NewPCG(7, 7))
	noise := make([]byte, size)
	for i := range noise {
		noise[i] = byte(r.Uint32())
	}
	_, err = w.Write(noise)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	sum := sha256.Sum256(b.Bytes())
	v := market.Version{Version: "1", Date: "2026-01-01", File: "parcels/pack.zip", Size: int64(b.Len()), SHA256: hex.EncodeToString(sum[:])}
	write(t, filepath.Join(dir, v.File), b.String())
	index, err := json.Marshal(market.Index{Format: 1, Name: "One", Entries: []market.Entry{{ID: "pack", Kind: "icons", Name: "Pack", Versions: []market.Version{v}}}})
	require.NoError(t, err)
	write(t, filepath.Join(dir, "index.json"), string(index))
	return v
}

// nginx serves a folder at a limited rate (Debian: nginx-light) and returns its
// address and where it logs status and range of each answer.
func nginx(t *testing.T, dir string) (address, log string) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	at := l.Addr().String()
	require.NoError(t, l.Close())
	work := t.TempDir()
	log = filepath.Join(work, "access.log")
	write(t, filepath.Join(work, "nginx.conf"), fmt.Sprintf(`daemon off; user root; master_process off; pid %[1]s/pid; error_log %[1]s/error.log;
events {}
http {
	log_format short '$status $request_uri $http_range';
	access_log %[2]s short;
	client_body_temp_path %[1]s/b; proxy_temp_path %[1]s/p; fastcgi_temp_path %[1]s/f; uwsgi_temp_path %[1]s/u; scgi_temp_path %[1]s/s;
	server { listen %[3]s; root %[4]s; limit_rate 3m; }
}`, work, log, at, dir))
	c := tool(t, "/usr/sbin/nginx", "nginx-light", "-p", work, "-c", filepath.Join(work, "nginx.conf"))
	require.NoError(t, c.Start())
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	for end := time.Now().Add(10 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if conn, err := net.Dial("tcp", at); err == nil {
			conn.Close()
			return "http://" + at, log
		}
	}
	require.Fail(t, "nginx did not come up")
	return "", ""
}

// throttled is the standard library's file server, slowed down.
func throttled(t *testing.T, dir string) string {
	t.Helper()
	files := http.FileServer(http.Dir(dir))
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { files.ServeHTTP(slow{w}, r) }))
	t.Cleanup(srv.Close)
	return srv.URL
}

type slow struct{ http.ResponseWriter }

func (s slow) Write(b []byte) (int, error) {
	time.Sleep(time.Duration(len(b)) * time.Second / 3_000_000)
	return s.ResponseWriter.Write(b)
}

// TestTransfersAgainstFileServers interrupts a transfer at ten random points
// each from nginx and from the standard library's file server: it always ends
// at the right checksum, by ranges, and an index that has not changed is not
// sent again.
func TestTransfersAgainstFileServers(t *testing.T) {
	t.Parallel()
	seed := uint64(time.Now().UnixNano())
	r := rand.New(rand.NewPCG(seed, 3))
	dir := t.TempDir()
	v := oneParcel(t, dir, 2_000_000)
	require.NoError(t, os.Chmod(dir, 0o755))
	address, log := nginx(t, dir)
	for name, base := range map[string]string{"nginx": address, "net/http": throttled(t, dir)} {
		a, err := app.New(t.Context(), app.Config{Dir: t.TempDir(), Market: base})
		require.NoError(t, err)
		t.Cleanup(func() { _ = a.Close() })
		a.Markets.Fresh = 0
		for range 3 {
			require.NoError(t, a.Markets.Look().Wait())
		}
		list, err := a.Markets.List()
		require.NoError(t, err)
		require.Empty(t, list[0].Trouble)
		job, err := a.Markets.Fetch(markets.Ref{Entry: "pack"}, func(sha string) string { return sha })
		require.NoError(t, err)
		stops := 0
		for n := range 10 {
			least := v.Size*int64(n)/11 + r.Int64N(v.Size/11)
			for job.Progress().State == jobs.Running && job.Progress().Done < least {
				time.Sleep(time.Millisecond)
			}
			job.Pause()
			if job.Progress().State == jobs.Paused {
				stops++
			}
			a.Jobs.Resume(job)
		}
		require.NoError(t, job.Wait(), "%s, seed %d", name, seed)
		require.Equal(t, v.SHA256, job.Progress().Then)
		require.Equal(t, 10, stops)
		t.Logf("%s: interrupted %d times, seed %d", name, stops, seed)
	}
	text, err := os.ReadFile(log)
	require.NoError(t, err)
	require.Equal(t, 1, strings.Count(string(text), "200 /index.json"))
	require.Equal(t, 2, strings.Count(string(text), "304 /index.json"))
	require.GreaterOrEqual(t, strings.Count(string(text), "206 /parcels/pack.zip bytes="), 5, "taken up again by ranges")
}
