package testkit

import (
	"fmt"
	"reflect"
	"time"

	"pgregory.net/rapid"

	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// Fill gives every exported field of a struct a value of its own that is not its zero value, whatever fields it has: so
// a field that is added later is filled too. Values that a type is bounded to are drawn from these.
func Fill(t *rapid.T, into any) { fill(t, reflect.ValueOf(into).Elem()) }

// bounded are values of types that can't have any.
var bounded = map[reflect.Type][]any{
	reflect.TypeFor[site.Status](): {site.StatusLive, site.StatusOffline},
	reflect.TypeFor[site.Values](): {
		site.Values(`{"kind-0.detail-0":"3.5"}`), site.Values(`{"kind-0.detail-0":"a\nb","x.y":"\"quoted\""}`),
	},
	reflect.TypeFor[site.Pin](): {site.PinStart, site.PinEnd},
	reflect.TypeFor[site.SortRule](): {
		site.SortManual,
		site.SortLabel,
		site.SortNewest,
		site.SortDate,
		site.SortDateDown,
	},
	reflect.TypeFor[site.Audience]():    {site.AudienceEveryone, site.AudienceSignedIn, site.Audience("staff|masters")},
	reflect.TypeFor[site.DateOrder]():   {site.DatesMonthDay, site.DatesYearMonth},
	reflect.TypeFor[site.From]():        {site.FromTrail, site.FromEntry, site.FromWhole},
	reflect.TypeFor[site.ListSort]():    {site.ListNewest, site.ListTree},
	reflect.TypeFor[site.ListLook]():    {site.LooksCards, site.LooksTable},
	reflect.TypeFor[site.Unfold]():      {site.UnfoldAll, site.UnfoldTrail},
	reflect.TypeFor[site.Self]():        {site.SelfNot, site.SelfAbove, site.SelfBeside},
	reflect.TypeFor[site.AccountLink](): {site.AccountSignIn, site.AccountDetails},
	reflect.TypeFor[*time.Location]():   {mustZone("Europe/London"), mustZone("Pacific/Auckland")},
}

func mustZone(name string) *time.Location {
	zone, known := site.LoadZone(name)
	if !known {
		panic(name)
	}
	return zone
}

func fill(t *rapid.T, v reflect.Value) {
	name := v.Type().String()
	if values, known := bounded[v.Type()]; known {
		v.Set(reflect.ValueOf(rapid.SampledFrom(values).Draw(t, name)))
		return
	}
	switch v.Type() {
	case reflect.TypeFor[time.Time]():
		v.Set(reflect.ValueOf(Now.Add(time.Duration(rapid.IntRange(1, 100_000).Draw(t, name)) * time.Minute)))
		return
	case reflect.TypeFor[site.Piece]():
		v.Set(reflect.ValueOf(anyPiece(t)))
		return
	case reflect.TypeFor[site.Shows]():
		v.Set(reflect.ValueOf(anyShows(t)))
		return
	}
	switch v.Kind() {
	case reflect.String:
		v.SetString(fmt.Sprintf("words %d", rapid.IntRange(1, 1_000_000).Draw(t, name)))
	case reflect.Int, reflect.Int32, reflect.Int64:
		v.SetInt(int64(rapid.IntRange(1, 4).Draw(t, name)))
	case reflect.Bool:
		v.SetBool(rapid.Bool().Draw(t, name))
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 2, 2))
		fill(t, v.Index(0))
		fill(t, v.Index(1))
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				fill(t, v.Field(i))
			}
		}
	}
}

// anyPiece draws something to show of each type, its settings filled.
func anyPiece(t *rapid.T) site.Piece {
	kind := rapid.SampledFrom(piece.Types()).Draw(t, "type of block")
	zero, err := kind.Decode([]byte("{}"))
	if err != nil {
		panic(err)
	}
	return filled(t, zero)
}

// anyShows draws something that an item shows of each type, its settings filled.
func anyShows(t *rapid.T) site.Shows {
	kind := rapid.SampledFrom(target.Types()).Draw(t, "type of item")
	zero, err := kind.Decode([]byte("{}"))
	if err != nil {
		panic(err)
	}
	return filled(t, zero)
}

func filled[T any](t *rapid.T, zero T) T {
	made := reflect.New(reflect.TypeOf(zero)).Elem()
	fill(t, made)
	return made.Interface().(T)
}
