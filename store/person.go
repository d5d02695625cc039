package store

import (
	"context"

	"gorm.io/gorm"
)

// Owner is whose everything is while nobody signs in.
const Owner = "owner"

type personKey struct{}

// As is a context in which decisions, jobs, changes and money are somebody's.
func As(ctx context.Context, person string) context.Context {
	return context.WithValue(ctx, personKey{}, person)
}

// personOf is whose a context's changes are.
func personOf(ctx context.Context) string {
	if person, said := ctx.Value(personKey{}).(string); said && person != "" {
		return person
	}
	return Owner
}

// mark notes whose a row is, unless it is said.
func mark(person *string, tx *gorm.DB) error {
	if *person == "" {
		*person = personOf(tx.Statement.Context)
	}
	return nil
}

// BeforeCreate notes whose a decision is.
func (d *Decision) BeforeCreate(tx *gorm.DB) error { return mark(&d.Person, tx) }

// BeforeCreate notes who starts a job.
func (j *Job) BeforeCreate(tx *gorm.DB) error { return mark(&j.Person, tx) }

// BeforeCreate notes for whom a call is made.
func (e *Entry) BeforeCreate(tx *gorm.DB) error { return mark(&e.Person, tx) }

// BeforeCreate notes who changes topics.
func (c *TopicChange) BeforeCreate(tx *gorm.DB) error { return mark(&c.Person, tx) }
