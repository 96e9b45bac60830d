package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/demo"
	"vineladder/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// command runs the program on a database and gives what it prints.
func command(t *testing.T, input string, args ...string) (string, error) {
	cmd := root()
	var out bytes.Buffer
	cmd.SetOut(&out)
	cmd.SetErr(&bytes.Buffer{})
	cmd.SetIn(strings.NewReader(input))
	cmd.SetArgs(args)
	err := cmd.ExecuteContext(context.Background())
	return out.String(), err
}

func TestTheSheetRoundTripsThroughTheCommandLine(t *testing.T) {
	url := storetest.URL(t)
	t.Setenv("VINELADDER_DATABASE_URL", url)
	st := storetest.Open(t, url)
	require.NoError(t, demo.Load(context.Background(), st))
	file := filepath.Join(t.TempDir(), "pages.csv")
	sheet, err := command(t, "", "export", "pages")
	require.NoError(t, err)
	records, err := csv.NewReader(strings.NewReader(sheet)).ReadAll()
	require.NoError(t, err)
	assert.Len(t, records, 185, "a line a page, and the head")
	require.NoError(t, os.WriteFile(file, []byte(sheet), 0o644))
	said, err := command(t, "", "import", "pages", file, "--publish")
	require.NoError(t, err)
	assert.Contains(t, said, "nothing changes")

	require.NoError(t, os.WriteFile(file, []byte("key,parent_key,label\nnew,p1,A new page\n"), 0o644))
	_, err = command(t, "", "import", "pages", file)
	assert.ErrorContains(t, err, "either --publish or --draft")
	_, err = command(t, "", "import", "pages", file, "--draft", "Spring", "--for", "structure")
	require.NoError(t, err)
	again, err := command(t, "", "export", "pages")
	require.NoError(t, err)
	assert.Equal(t, sheet, again, "a draft is not public")
	_, err = command(t, "", "import", "pages", file, "--publish", "--for", "staff")
	assert.ErrorContains(t, err, "Morag Linn may not do this: To order pages in “Home” you need a role")
	_, err = command(t, "", "import", "pages", file, "--publish")
	require.NoError(t, err)
	again, err = command(t, "", "export", "pages")
	require.NoError(t, err)
	assert.Contains(t, again, "new,p1,18,A new page,")

	require.NoError(t, os.WriteFile(file, []byte("key,parent_key,label\nx,p1,X\ny,nowhere,Y\n"), 0o644))
	_, err = command(t, "", "import", "pages", file, "--publish")
	assert.ErrorContains(t, err, "line 3, column 3 (parent_key): there is no page “nowhere”")
	unchanged, err := command(t, "", "export", "pages")
	require.NoError(t, err)
	assert.Equal(t, again, unchanged, "refused whole")
	_, err = command(t, "", "export", "pages", "--format", "pdf")
	assert.ErrorContains(t, err, "not known")
}

func TestShowAndUserAdd(t *testing.T) {
	url := storetest.URL(t)
	t.Setenv("VINELADDER_DATABASE_URL", url)
	require.NoError(t, demo.Load(context.Background(), storetest.Open(t, url)))
	show := func(args ...string) map[string]any {
		out, err := command(t, "", append([]string{"show"}, args...)...)
		require.NoError(t, err)
		var facts map[string]any
		require.NoError(t, json.Unmarshal([]byte(out), &facts))
		return facts
	}
	fares := show("page", "/Sailings/fares/")
	assert.Equal(
		t,
		[]any{"Fares", float64(3), float64(5), "Routes", "On board", "sees", "everyone"},
		[]any{
			fares["label"],
			fares["position"],
			fares["of"],
			fares["after"],
			fares["before"],
			fares["answer"],
			fares["audience"],
		},
	)
	assert.Equal(t, "sign-in", show("page", "/staff-handbook/holidays")["answer"])
	assert.Equal(t, "sees", show("page", "/staff-handbook/holidays", "--audience", "harbour-masters")["answer"])
	assert.Equal(t, "no access", show("page", "/board-papers", "--audience", "signed-in")["answer"])
	summer := show("page", "/sailings/timetables/summer")
	assert.Equal(t, "“Summer” is offline", summer["why"])
	early := "/notices/sailing-notices/early-boat-for-the-lamb-sales"
	assert.Equal(t, "not found", show("page", early)["answer"])
	assert.Equal(t, "sees", show("page", early, "--moment", "2027-03-01T00:00:00Z")["answer"])
	side := show("menu", "main-menu", "--at", "/sailings/fares/refunds")["Side menu"].([]any)
	assert.Equal(t, "Timetables", side[0].(map[string]any)["label"])
	for _, c := range []struct{ says, args string }{
		{"no page at /nowhere", "show page /nowhere"},
		{"no menu “x”", "show menu x"},
		{"no role “pirates”", "show page / --audience pirates"},
		{"is not a moment", "show page / --moment soon"},
	} {
		_, err := command(t, "", strings.Fields(c.args)...)
		assert.ErrorContains(t, err, c.says)
	}

	_, err := command(t, "a long password\n", "user", "add", "Ana", "--name", "Ana Berg", "--roles", "staff,operators")
	require.NoError(t, err)
	account, err := storetest.Open(t, url).Authenticate(context.Background(), "ana", "a long password")
	require.NoError(t, err)
	assert.Equal(t, []string{"operators", "staff"}, account.Roles)
	_, err = command(t, "short\n", "user", "add", "bo")
	assert.ErrorContains(t, err, "at least 12 characters")
	_, err = command(t, "a long password\n", "user", "add", "bo", "--roles", "pirates")
	assert.ErrorContains(t, err, "pirates")
	_, err = storetest.Open(t, url).Authenticate(context.Background(), "bo", "a long password")
	assert.Error(t, err, "an account with a wrong role is not half made")
}

func TestErrorsSayWhatToDo(t *testing.T) {
	t.Setenv("VINELADDER_DATABASE_URL", "")
	_, err := command(t, "", "serve")
	assert.ErrorContains(t, err, "Set VINELADDER_DATABASE_URL")
	_, err = command(t, "", "serve", "--database-url", "postgres://x:y@127.0.0.1:1/z")
	assert.ErrorContains(t, err, "check that PostgreSQL runs")
	assert.NotContains(t, err.Error(), "\n", "one sentence")
	taken, err := listen(context.Background(), "127.0.0.1:0")
	require.NoError(t, err)
	defer taken.Close()
	_, err = command(t, "", "demo", "--site-addr", taken.Addr().String())
	assert.ErrorContains(t, err, "is taken by another program")
}

func TestExportsAndGenerate(t *testing.T) {
	url := storetest.URL(t)
	t.Setenv("VINELADDER_DATABASE_URL", url)
	st := storetest.Open(t, url)
	require.NoError(t, demo.Load(context.Background(), st))
	require.NoError(t, demo.Grow(context.Background(), st))
	said, err := command(t, "", "export", "redirects")
	require.NoError(t, err)
	assert.Contains(t, said, "/sailings/when-sailings-are-cancelled,/sailings/cancelled,308\r\n")
	assert.Contains(t, said, "/documents/policies,/about-the-board/documents/policies,308\r\n")
	said, err = command(t, "", "export", "redirects", "--format", "nginx")
	require.NoError(t, err)
	assert.Contains(t, said, `"/sailings/when-sailings-are-cancelled" "/sailings/cancelled";`)
	said, err = command(t, "", "export", "menus", "--menu", "footer", "--site-url", "https://harbour.example")
	require.NoError(t, err)
	assert.Contains(t, said, `text="Privacy" type="link" url="https://harbour.example/about-the-board/privacy"`)
	said, err = command(t, "", "export", "menus", "--format", "json")
	require.NoError(t, err)
	assert.Contains(t, said, `"key": "quick-tasks"`)
	for _, args := range [][]string{
		{"export", "redirects", "--format", "x"},
		{"export", "menus", "--menu", "none"},
		{"export", "menus", "--format", "x"},
		{"generate", "--pages", "0"},
		{"generate", "--pages", "10"},
	} {
		_, err := command(t, "", args...)
		assert.Error(t, err, args)
	}
	empty := storetest.Bare(t)
	t.Setenv("VINELADDER_DATABASE_URL", empty)
	said, err = command(t, "", "generate", "--pages", "500", "--seed", "3")
	require.NoError(t, err)
	assert.Contains(t, said, "500 pages.")
}

// A menu goes out and comes back, in both formats; what does not fit is said, and nothing is imported.
func TestMenusGoOutAndComeBack(t *testing.T) {
	url := storetest.URL(t)
	t.Setenv("VINELADDER_DATABASE_URL", url)
	st := storetest.Open(t, url)
	require.NoError(t, demo.Load(context.Background(), st))
	export := func(args ...string) string {
		said, err := command(
			t,
			"",
			append([]string{"export", "menus", "--site-url", "https://harbour.example"}, args...)...)
		require.NoError(t, err)
		return said
	}
	write := func(name, content string) string {
		file := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(file, []byte(content), 0o600))
		return file
	}
	before := export("--format", "json")
	said, err := command(t, "", "import", "menus", write("menus.json", before), "--publish")
	require.NoError(t, err)
	assert.Contains(t, said, "nothing changes", "it is the demo's own export")
	assert.Equal(t, before, export("--format", "json"))
	renamed := strings.ReplaceAll(before, `"label": "Privacy"`, `"label": "Your data"`)
	said, err = command(t, "", "import", "menus", write("menus.json", renamed), "--draft", "Names", "--for", "structure")
	require.NoError(t, err)
	assert.Equal(t, "1 operation.\n", said)
	wrong := strings.ReplaceAll(before, "Your data", strings.Repeat("long ", 99))
	wrong = strings.ReplaceAll(wrong, `"label": "Privacy"`, `"label": "`+strings.Repeat("long ", 99)+`"`)
	_, err = command(t, "", "import", "menus", write("menus.json", wrong), "--draft", "Refused", "--for", "structure")
	require.Error(t, err)
	structure, err := st.AccountByLogin(context.Background(), "structure")
	require.NoError(t, err)
	drafts, err := st.DraftsOf(context.Background(), structure.ID)
	require.NoError(t, err)
	for _, d := range drafts {
		assert.NotEqual(t, "Refused", d.Name, "what was refused leaves no draft behind")
	}

	footer := export("--menu", "footer")
	_, err = command(
		t,
		"",
		"import",
		"menus",
		write("footer.opml", strings.ReplaceAll(footer, "Privacy", "Your data")),
		"--menu",
		"second-footer",
		"--draft",
		"From OPML",
		"--for",
		"structure",
	)
	require.NoError(t, err)
	_, err = command(t, "", "export", "menus", "--menu", "second-footer")
	assert.ErrorContains(t, err, "there is no menu", "it is in a draft")
	_, err = command(t, "", "import", "menus", write("footer.opml", footer), "--menu", "second-footer", "--publish")
	require.NoError(t, err)
	assert.Contains(t, export("--menu", "second-footer"), `text="Privacy"`)

	_, err = command(
		t,
		"",
		"import",
		"menus",
		write("bad.json", `[{"key":"x","name":"X","entries":[{"label":"Gone","url":"/no/such/page"}]}]`),
		"--publish",
	)
	assert.ErrorContains(t, err, "Gone: there is no page at /no/such/page")
	_, err = command(t, "", "import", "menus", write("bad.json", `[]`))
	assert.ErrorContains(t, err, "say either --publish or --draft NAME")
}
