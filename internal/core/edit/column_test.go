package edit

import (
	"reflect"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"

	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// noFields are what a thing has that no form of the workbench, sheet or operation sets as a field, and why.
var noFields = map[string]string{
	"Page.ID": "number", "Page.Parent": "place", "Page.Rank": "place", "Page.Key": "number",
	"Page.Revision": "kept by publishing",
	"Page.Binned":   "an operation of its own", "Page.Purged": "emptying the bin", "Page.BinnedAt": "kept by publishing",
	"Page.FirstOnline": "kept by publishing", "Page.Worded": "kept by publishing",
	"Page.Since": "kept by publishing", "Page.Spells": "kept by publishing",
	"Page.Changed": "kept by publishing",
	"Entry.ID":     "number", "Entry.Parent": "place", "Entry.Under": "place", "Menu.ID": "number", "Menu.Key": "number",
	"Menu.Entries": "things of their own",
	"Block.ID":     "number", "Placement.ID": "number", "Placement.Block": "place", "Placement.Region": "place",
	"Kind.Key": "number", "Detail.Key": "number",
}

// A field of a struct that no column reads is a field that storage, sheet, copies and conflicts forget: each is read
// by exactly one column, or is named above.
func TestEveryFieldOfAThingIsAColumn(t *testing.T) {
	columnsRead(t, pageFields, site.Page{})
	columnsRead(t, entryFields, site.Entry{Shows: site.ItemHeading{}})
	columnsRead(t, menuFields, site.Menu{})
	columnsRead(t, blockFields, site.Block{Shows: site.BlockName{}})
	columnsRead(t, placementFields, site.Placement{})
	zone, _ := site.LoadZone("UTC")
	columnsRead(t, settingsFields, site.Settings{Zone: zone})
	columnsRead(t, kindFields, site.Kind{})
	columnsRead(t, detailFields, site.Detail{})
}

func columnsRead[T any](t *testing.T, fields family[T], empty T) {
	t.Helper()
	leaves(reflect.ValueOf(&empty).Elem(), reflect.TypeFor[T]().Name(), func(name string, v reflect.Value) {
		was := reflect.New(v.Type()).Elem()
		was.Set(v)
		before := written(fields, &empty)
		other(t, v)
		var read []Field
		for i, c := range fields {
			if c.read(&empty) != before[i] {
				read = append(read, c.fact().Field)
			}
		}
		v.Set(was)
		if _, none := noFields[name]; none {
			assert.Empty(t, read, "%s is said to be no field", name)
			return
		}
		assert.Len(t, read, 1, "columns that read %s", name)
	})
}

func written[T any](fields family[T], t *T) []string {
	values := make([]string, len(fields))
	for i, c := range fields {
		values[i] = c.read(t)
	}
	return values
}

// leaves visits the fields of a struct, those of embedded and of small structs in their own right.
func leaves(v reflect.Value, name string, visit func(name string, v reflect.Value)) {
	for i := range v.NumField() {
		switch f := v.Type().Field(i); {
		case f.Type == reflect.TypeFor[site.Badge](), f.Anonymous:
			prefix := name
			if !f.Anonymous {
				prefix = name + "." + f.Name
			}
			leaves(v.Field(i), prefix, visit)
		case f.IsExported():
			visit(name+"."+f.Name, v.Field(i))
		}
	}
}

// other gives a value another one.
func other(t *testing.T, v reflect.Value) {
	t.Helper()
	zone, _ := site.LoadZone("Europe/London")
	switch v.Type() {
	case reflect.TypeFor[site.Piece]():
		v.Set(reflect.ValueOf(site.BlockChildren{}))
		return
	case reflect.TypeFor[site.Shows]():
		v.Set(reflect.ValueOf(site.ItemWeb{Address: "https://tides.example/"}))
		return
	case reflect.TypeOf(zone):
		v.Set(reflect.ValueOf(zone))
		return
	case reflect.TypeFor[[]site.Spot]():
		v.Set(reflect.ValueOf([]site.Spot{{Page: 3}}))
		return
	}
	if v.Type().String() == "time.Time" {
		at, err := instant().Read(nil, "2026-11-24T12:00:00Z")
		require.NoError(t, err)
		v.Set(reflect.ValueOf(at))
		return
	}
	switch v.Kind() {
	case reflect.String:
		v.SetString(v.String() + "other")
	case reflect.Int, reflect.Int64:
		v.SetInt(v.Int() + 3)
	case reflect.Bool:
		v.SetBool(!v.Bool())
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 2, 2))
	default:
		t.Fatalf("a field of the type %s: say here what another value of it is", v.Type())
	}
}

// The closed families are known whole: whatever implements one in the source is in its list.
func TestListsAreWhole(t *testing.T) {
	assert.ElementsMatch(t, implementations(t, "site", "Piece"), keysOf(t, piece.Types(), func(p piece.Type) any {
		zero, err := p.Decode([]byte("{}"))
		require.NoError(t, err)
		return zero
	}), "types of blocks")
	assert.ElementsMatch(t, implementations(t, "site", "Shows"), keysOf(t, target.Types(), func(p target.Type) any {
		zero, err := p.Decode([]byte("{}"))
		require.NoError(t, err)
		return zero
	}), "types of menu items")
	assert.ElementsMatch(t, implementations(t, "edit", "Op"), keysOf(t, operations(), func(d decoder) any {
		zero, err := d.read([]byte("{}"))
		require.NoError(t, err)
		return zero
	}), "operations")
}

func keysOf[T any](t *testing.T, list []T, zero func(T) any) []string {
	t.Helper()
	var names []string
	for _, member := range list {
		names = append(names, reflect.TypeOf(zero(member)).Name())
	}
	return names
}

// implementations names the types of a core package that implement an interface of it.
func implementations(t *testing.T, pkg, named string) []string {
	t.Helper()
	loaded, err := packages.Load(
		&packages.Config{Mode: packages.NeedTypes | packages.NeedImports | packages.NeedDeps},
		"vineladder/internal/core/"+pkg,
	)
	require.NoError(t, err)
	require.Empty(t, loaded[0].Errors)
	return implementing(loaded[0].Types, named)
}

// Every operation is read back from its name, and names are one each.
func TestOperationsHaveNamesOfTheirOwn(t *testing.T) {
	var names []string
	for _, d := range operations() {
		op, err := Decode([]byte(`{"op":"` + d.name + `","v":1,"with":{}}`))
		require.NoError(t, err)
		assert.Equal(t, d.name, op.name())
		assert.False(t, slices.Contains(names, d.name), d.name)
		names = append(names, d.name)
	}
	_, err := Decode([]byte(`{"op":"fly","v":1,"with":{}}`))
	assert.ErrorContains(t, err, "“fly” is not known")
}

// Whatever an operation holds, even nothing, it says what it is about and what it needs.
func TestEveryOperationSaysWhatItIsAbout(t *testing.T) {
	s := site.NewBuilder(site.Settings{}).Site()
	for _, d := range operations() {
		op, err := d.read([]byte("{}"))
		require.NoError(t, err)
		about := op.About(s)
		assert.NotEmpty(t, about.What+about.Name, d.name)
		for _, need := range op.Needs(s) {
			assert.NotEmpty(t, need.Action, d.name)
			assert.NotEmpty(t, need.On.Family, d.name)
		}
		assert.NotNil(t, op.ties(), d.name)
	}
}
