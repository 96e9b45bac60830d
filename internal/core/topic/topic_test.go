package topic_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/topic"
)

func harbours(t *testing.T) *site.Site {
	return testkit.Outline(t, `
Home
  Notices
    Fog | topics=page:8|page:7
    Wind | topics=page:7
    Rota | audience=staff topics=page:8
  Places | kind=topic-list
    Øyra | kind=topic
      East pier | kind=topic
    The Calf | kind=topic status=offline
  Winter | topics=page:9`)
}

func everybody(s *site.Site) func(site.PageID) bool {
	return func(id site.PageID) bool { return reach.Ask(s, id, reach.Lens{At: testkit.Now}) == reach.Sees }
}

// A topic gathers what bears it or a narrower one, each page once, as far as the visitor reaches it; a list shows its
// top topics; a page shows the topics that it bears.
func TestWhatPagesShowOfTopics(t *testing.T) {
	s := harbours(t)
	of := func(label string) topic.Gathering {
		return topic.Of(s, testkit.Find(t, s, label)).To(s, everybody(s))
	}
	page := func(label string) site.PageID { return testkit.Find(t, s, label) }
	assert.Equal(t, topic.Gathering{
		Narrower: []site.PageID{page("East pier")}, Pages: []site.PageID{page("Fog"), page("Wind")},
	}, of("Øyra"))
	assert.Equal(t, []site.PageID{page("Fog")}, of("East pier").Pages)
	assert.Equal(t, topic.Gathering{Narrower: []site.PageID{page("Øyra")}}, of("Places"))
	assert.Equal(t, []topic.Group{{
		List: page("Places"), Topics: []site.PageID{page("Øyra"), page("East pier")},
	}}, of("Fog").Bears)
	assert.Empty(t, of("Winter").Bears, "the topic is offline")
	assert.Equal(t, topic.Gathering{}, of("Notices"))
}

// Counts are those of asking topic by topic, whatever the site and the visitor.
func TestCountsAgreeWithAskingTopicByTopic(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.RandomTopics(t, testkit.Random(t, 20), 6)
		for _, lens := range testkit.Lenses() {
			counts := topic.CountsOf(s, lens)
			reached := func(id site.PageID) bool { return reach.Ask(s, id, lens) == reach.Sees }
			for _, list := range s.TopicLists() {
				s.Walk(list, func(p *site.Page) bool {
					if !p.IsTopic() {
						return true
					}
					want := topic.Count{All: len(topic.Of(s, p.ID).To(s, reached).Pages)}
					for _, id := range s.Bearing(p.ID) {
						if reached(id) && s.InTree(id) {
							want.Own++
						}
					}
					assert.Equal(t, want, counts.Of(p.ID), "topic %d", p.ID)
					return true
				})
			}
		}
	})
}

// A page of a closed site that stands in for the others leads nowhere; a page that stands in for others is in no list.
func TestPagesThatStandInForOthersAreLeftOut(t *testing.T) {
	s := harbours(t)
	b := s.Builder()
	settings := s.Settings()
	settings.NotFound, settings.Shut, settings.Closed = testkit.Find(t, s, "Wind"), testkit.Find(t, s, "Fog"), true
	b.SetSettings(settings)
	s = b.Site()
	assert.Empty(t, topic.Of(s, settings.Shut).Bears)
	assert.NotEmpty(t, topic.Of(s, settings.NotFound).Bears)
	assert.Equal(t, []site.PageID{testkit.Find(t, s, "Rota")}, topic.Bearers(s, testkit.Find(t, s, "Øyra")))
	assert.Equal(t, []site.PageID{7}, topic.Broader(s, 7))
	assert.True(t, slices.Contains(topic.BearersWithin(s, s.Home()), testkit.Find(t, s, "Winter")))
}
