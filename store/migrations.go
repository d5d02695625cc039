package store

import (
	"errors"
	"fmt"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"
)

// schema is the first state of the data file. Later ones are further migrations:
// a statement that has shipped is never edited.
var schema = []string{
	`CREATE TABLE niches (id INTEGER PRIMARY KEY, name TEXT NOT NULL, country TEXT NOT NULL, language TEXT NOT NULL,
		currency TEXT NOT NULL, own_site TEXT NOT NULL DEFAULT '', planned_links INTEGER NOT NULL DEFAULT 0,
		link_standing REAL NOT NULL, fit REAL NOT NULL, revision INTEGER NOT NULL DEFAULT 1,
		opened_at DATETIME NOT NULL, created_at DATETIME NOT NULL)`,
	`CREATE TABLE ideas (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		phrase TEXT NOT NULL, words INTEGER NOT NULL, variant_key TEXT NOT NULL, decision INTEGER NOT NULL DEFAULT 0,
		decided_at DATETIME, revision INTEGER NOT NULL, created_at DATETIME NOT NULL,
		demand_at DATETIME, demand_source TEXT NOT NULL DEFAULT '', demand_error TEXT NOT NULL DEFAULT '',
		searches INTEGER, under NUMERIC NOT NULL DEFAULT 0, months TEXT NOT NULL DEFAULT '', cpc_micros INTEGER,
		currency TEXT NOT NULL DEFAULT '', competition REAL, phrase_match INTEGER NOT NULL DEFAULT 0,
		broad_match INTEGER NOT NULL DEFAULT 0,
		judged_at DATETIME, judge_error TEXT NOT NULL DEFAULT '', difficulty REAL NOT NULL DEFAULT 0,
		reach REAL NOT NULL DEFAULT 0, page_one REAL NOT NULL DEFAULT 0, top_five REAL NOT NULL DEFAULT 0,
		expected REAL NOT NULL DEFAULT 0, footholds INTEGER NOT NULL DEFAULT 0, weakest REAL NOT NULL DEFAULT 0,
		want INTEGER NOT NULL DEFAULT 0, mixed NUMERIC NOT NULL DEFAULT 0)`,
	`CREATE UNIQUE INDEX ideas_phrase ON ideas (niche_id, phrase)`,
	`CREATE INDEX ideas_revision ON ideas (niche_id, revision)`,
	`CREATE TABLE origins (idea_id INTEGER NOT NULL REFERENCES ideas(id) ON DELETE CASCADE, kind TEXT NOT NULL,
		query TEXT NOT NULL, seed TEXT NOT NULL, created_at DATETIME NOT NULL,
		PRIMARY KEY (idea_id, kind, query))` + withoutRowID,
	`CREATE TABLE seeds (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		phrase TEXT NOT NULL, from_idea INTEGER REFERENCES ideas(id), created_at DATETIME NOT NULL)`,
	`CREATE UNIQUE INDEX seeds_phrase ON seeds (niche_id, phrase)`,
	`CREATE TABLE evidences (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, body BLOB NOT NULL)`,
	`CREATE TABLE answers (kind TEXT NOT NULL, key TEXT NOT NULL, source TEXT NOT NULL, body BLOB NOT NULL,
		asked_at DATETIME NOT NULL, took_ms INTEGER NOT NULL, cost_micros INTEGER NOT NULL, PRIMARY KEY (kind, key))`,
	`CREATE INDEX answers_asked ON answers (asked_at)`,
	`CREATE TABLE decisions (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		idea_id INTEGER NOT NULL REFERENCES ideas(id) ON DELETE CASCADE, batch TEXT NOT NULL, was INTEGER NOT NULL,
		became INTEGER NOT NULL, created_at DATETIME NOT NULL)`,
	`CREATE INDEX decisions_niche ON decisions (niche_id, id)`,
	`CREATE TABLE jobs (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		kind TEXT NOT NULL, title TEXT NOT NULL, params TEXT NOT NULL, state TEXT NOT NULL, message TEXT NOT NULL DEFAULT '',
		found INTEGER NOT NULL DEFAULT 0, lookups INTEGER NOT NULL DEFAULT 0, cost_micros INTEGER NOT NULL DEFAULT 0,
		owner TEXT NOT NULL DEFAULT '', lease_until DATETIME NOT NULL, created_at DATETIME NOT NULL, finished_at DATETIME)`,
	`CREATE TABLE job_items (id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES jobs(id) ON DELETE CASCADE,
		seq INTEGER NOT NULL, payload TEXT NOT NULL, state TEXT NOT NULL DEFAULT '', error TEXT NOT NULL DEFAULT '')`,
	`CREATE INDEX job_items_open ON job_items (job_id, state, seq)`,
	`CREATE TABLE tokens (key TEXT PRIMARY KEY, value BLOB NOT NULL, expires_at DATETIME)`,
}

const firstStep = "1-first"

// steps are what came after it, in order.
var steps = []struct {
	name       string
	statements []string
}{
	{"2-calibration", []string{`ALTER TABLE niches ADD COLUMN calibration TEXT NOT NULL DEFAULT ''`}},
	{"3-reach", []string{
		`ALTER TABLE ideas ADD COLUMN links_needed INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN locked NUMERIC NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN my_standing REAL`,
		`ALTER TABLE ideas ADD COLUMN my_links INTEGER`,
		`ALTER TABLE ideas ADD COLUMN my_fit REAL`,
		`UPDATE niches SET calibration = ''`, // so that the new columns are filled from the evidence
	}},
	{"4-columns", []string{
		`ALTER TABLE ideas ADD COLUMN season TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN lasting TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN found_in INTEGER NOT NULL DEFAULT 0`,
		// The bits are those of sieve.FoundIn as they were then.
		`UPDATE ideas SET found_in = (SELECT coalesce(sum(DISTINCT CASE kind WHEN 'seed' THEN 1
			WHEN 'completion' THEN 2 WHEN 'letter' THEN 4 WHEN 'question' THEN 8 WHEN 'list' THEN 16 ELSE 0 END), 0)
			FROM origins WHERE idea_id = ideas.id)`,
		`CREATE INDEX ideas_undemanded ON ideas (niche_id) WHERE demand_at IS NULL AND demand_error = ''`,
		`CREATE INDEX ideas_judged ON ideas (niche_id) WHERE judged_at IS NOT NULL`,
		`ALTER TABLE evidences ADD COLUMN version INTEGER NOT NULL DEFAULT 1`,
		`UPDATE niches SET calibration = ''`, // so that seasons are reckoned from the months
	}},
	{"5-ranges", []string{
		`ALTER TABLE ideas ADD COLUMN page_one_low REAL NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN page_one_high REAL NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN top_five_low REAL NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN top_five_high REAL NOT NULL DEFAULT 0`,
		`UPDATE niches SET calibration = ''`, // so that the new columns are filled from the evidence
	}},
	{"6-sieves", []string{
		`CREATE TABLE sieves (id INTEGER PRIMARY KEY, name TEXT NOT NULL COLLATE NOCASE UNIQUE, body TEXT NOT NULL,
			created_at DATETIME NOT NULL, changed_at DATETIME NOT NULL)`,
		`ALTER TABLE niches ADD COLUMN usual_sieve INTEGER NOT NULL DEFAULT 0`,
	}},
	{"7-counts", []string{
		`ALTER TABLE ideas ADD COLUMN exact_pages INTEGER`,
		`ALTER TABLE ideas ADD COLUMN title_pages INTEGER`,
		`ALTER TABLE ideas ADD COLUMN pages_at DATETIME`,
		`ALTER TABLE ideas ADD COLUMN name_free NUMERIC`,
		`ALTER TABLE ideas ADD COLUMN free_names TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN names_at DATETIME`,
		`ALTER TABLE ideas ADD COLUMN count_error TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE niches ADD COLUMN endings TEXT NOT NULL DEFAULT 'com net org'`,
		`ALTER TABLE niches ADD COLUMN columns TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN labels TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN note TEXT NOT NULL DEFAULT ''`,
		`CREATE INDEX ideas_labelled ON ideas (niche_id, labels) WHERE labels <> ''`,
		`CREATE INDEX ideas_rare ON ideas (niche_id) WHERE judged_at IS NOT NULL OR pages_at IS NOT NULL OR
			names_at IS NOT NULL OR labels <> ''`,
	}},
	{"8-undo", []string{
		`ALTER TABLE decisions ADD COLUMN labels TEXT`,
		`ALTER TABLE decisions ADD COLUMN note TEXT`,
	}},
	{"9-ledger", []string{
		`CREATE TABLE ledger (id INTEGER PRIMARY KEY, call TEXT NOT NULL, event TEXT NOT NULL, question TEXT NOT NULL,
			key TEXT NOT NULL, micros INTEGER NOT NULL, job_id INTEGER NOT NULL, at DATETIME NOT NULL)`,
		`CREATE INDEX ledger_at ON ledger (at)`,
		`CREATE INDEX ledger_call ON ledger (call)`,
		`CREATE INDEX ledger_key ON ledger (question, key)`,
		`CREATE INDEX ledger_job ON ledger (job_id)`,
		addedToOnly("ledger")[0], addedToOnly("ledger")[1],
		`INSERT INTO ledger (call, event, question, key, micros, job_id, at)
			SELECT 'before ' || rowid, 'paid', kind, key, cost_micros, 0, asked_at FROM answers WHERE cost_micros > 0`,
		`DROP INDEX ideas_undemanded`,
		`CREATE INDEX ideas_unasked ON ideas (niche_id) WHERE demand_at IS NULL`,
		`ALTER TABLE jobs DROP COLUMN lease_until`,
		`ALTER TABLE jobs ADD COLUMN beat INTEGER NOT NULL DEFAULT 0`,
	}},
	{"10-long", []string{
		`CREATE TABLE longs (key TEXT PRIMARY KEY, body TEXT NOT NULL, used_at DATETIME NOT NULL)`,
		`CREATE INDEX longs_used ON longs (used_at)`,
		`DELETE FROM tokens`, // pages' tokens show by themselves now that they are ours
	}},
	{"11-unread", []string{
		`ALTER TABLE ideas ADD COLUMN unread INTEGER NOT NULL DEFAULT 0`,
		`UPDATE niches SET calibration = ''`, // so that it is filled from the evidence
	}},
	{"12-worth", []string{
		`ALTER TABLE ideas ADD COLUMN clicks REAL NOT NULL DEFAULT -1`,
		`ALTER TABLE niches ADD COLUMN visit_micros INTEGER NOT NULL DEFAULT 0`,
	}},
	{"13-topics", topicSteps},
	{"14-whose", []string{
		`ALTER TABLE decisions ADD COLUMN person TEXT NOT NULL DEFAULT 'owner'`,
		`ALTER TABLE jobs ADD COLUMN person TEXT NOT NULL DEFAULT 'owner'`,
		`ALTER TABLE ledger ADD COLUMN person TEXT NOT NULL DEFAULT 'owner'`,
		`ALTER TABLE topic_changes ADD COLUMN person TEXT NOT NULL DEFAULT 'owner'`,
	}},
	{"15-safe", []string{
		`CREATE TABLE acknowledged (id INTEGER PRIMARY KEY CHECK (id = 1), changes INTEGER NOT NULL)`,
		`INSERT INTO acknowledged (id, changes) VALUES (1, 0)`,
		`ALTER TABLE job_items ADD COLUMN begun INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE niches ADD COLUMN staged NUMERIC NOT NULL DEFAULT 0`,
		`ALTER TABLE niches ADD COLUMN archived_at DATETIME`,
		`ALTER TABLE niches ADD COLUMN deleted_at DATETIME`,
		`ALTER TABLE ideas ADD COLUMN removed_at DATETIME`,
		`ALTER TABLE niches ADD COLUMN removals INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE decisions ADD COLUMN moved INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE decisions ADD COLUMN filled TEXT`,
		`CREATE INDEX decisions_batch ON decisions (niche_id, batch)`,
		`ALTER TABLE ledger ADD COLUMN program INTEGER NOT NULL DEFAULT 0`,
		`CREATE TABLE sents (niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, uid TEXT NOT NULL,
			says TEXT NOT NULL, sequence INTEGER NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (niche_id, uid))` + withoutRowID,
	}},
	{"16-leanings", []string{
		`CREATE TABLE fronts (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, engine TEXT NOT NULL,
			body BLOB NOT NULL)`,
		`CREATE TABLE leanings (niche_id INTEGER PRIMARY KEY REFERENCES niches(id) ON DELETE CASCADE, engine TEXT NOT NULL,
			model TEXT NOT NULL, pages INTEGER NOT NULL, body BLOB NOT NULL, at DATETIME NOT NULL)`,
		`UPDATE niches SET calibration = ''`, // so that what stands in front is taken from the evidence
	}},
	{"17-lists", []string{
		`ALTER TABLE ideas ADD COLUMN lists TEXT NOT NULL DEFAULT ''`,
		`UPDATE ideas SET lists = coalesce((SELECT group_concat(substr(query, 1, 190), char(31)) FROM (SELECT query
			FROM origins WHERE idea_id = ideas.id AND kind = 'list' ORDER BY created_at LIMIT 20)), '')
			WHERE found_in & 16 <> 0`,
	}},
	{"18-imports", []string{
		`CREATE TABLE imports (batch TEXT PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
			name TEXT NOT NULL, added INTEGER NOT NULL, changed INTEGER NOT NULL, person TEXT NOT NULL, at DATETIME NOT NULL)`,
		`CREATE INDEX imports_niche ON imports (niche_id, at)`,
		`INSERT INTO imports (batch, niche_id, name, added, changed, person, at)
			SELECT batch, niche_id, substr(batch, instr(batch, ' ') + 1), count(*) FILTER (WHERE moved = 2),
			count(*) FILTER (WHERE moved <> 2), max(person), max(created_at) FROM decisions
			WHERE moved = 2 OR filled IS NOT NULL GROUP BY niche_id, batch`,
		`ALTER TABLE ideas ADD COLUMN searches_range TEXT NOT NULL DEFAULT ''`,
		`CREATE TABLE mappings (key TEXT PRIMARY KEY, body TEXT NOT NULL, at DATETIME NOT NULL)`,
	}},
	{"19-drawn", []string{`ALTER TABLE topics ADD COLUMN drawn TEXT NOT NULL DEFAULT ''`}},
	{"20-sources", []string{`ALTER TABLE ledger ADD COLUMN source TEXT NOT NULL DEFAULT ''`}},
	{"21-brought", []string{
		`CREATE TABLE brought (kind TEXT NOT NULL, key TEXT NOT NULL, batch TEXT NOT NULL,
			niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, source TEXT NOT NULL, body BLOB NOT NULL,
			asked_at DATETIME NOT NULL, PRIMARY KEY (kind, key, batch))`,
		`CREATE INDEX brought_batch ON brought (batch)`,
		`CREATE INDEX brought_niche ON brought (niche_id)`,
	}},
	{"22-unwanted", []string{`ALTER TABLE niches ADD COLUMN unwanted TEXT NOT NULL DEFAULT ''`}},
	{"23-pen", []string{`ALTER TABLE niches ADD COLUMN pen TEXT NOT NULL DEFAULT ''`}},
	{"24-branches", []string{
		`CREATE TABLE branches (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
			kind TEXT NOT NULL, seed TEXT NOT NULL)`,
		`CREATE UNIQUE INDEX branches_seed ON branches (niche_id, seed, kind)`,
		`ALTER TABLE ideas ADD COLUMN branch_id INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE ledger ADD COLUMN branch_id INTEGER NOT NULL DEFAULT 0`,
		`CREATE INDEX ledger_branch ON ledger (branch_id, micros) WHERE branch_id > 0`,
		branchesFromOrigins + " WHERE TRUE",
		ideasOnBranches + " WHERE TRUE",
	}},
	{"25-checked", []string{
		`ALTER TABLE niches ADD COLUMN list_of INTEGER NOT NULL DEFAULT 0`,
		`CREATE TABLE nearests (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, phrase TEXT NOT NULL,
			searches INTEGER NOT NULL)`,
	}},
	{"26-gatherings", []string{
		`CREATE TABLE gatherings (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
			name TEXT NOT NULL, body TEXT NOT NULL, weekly NUMERIC NOT NULL DEFAULT 0, run_at DATETIME,
			job_id INTEGER NOT NULL DEFAULT 0, after INTEGER NOT NULL DEFAULT 0, created_at DATETIME NOT NULL,
			removed_at DATETIME)`,
		`CREATE INDEX gatherings_niche ON gatherings (niche_id)`,
	}},
	{"27-reports", []string{
		`ALTER TABLE ideas ADD COLUMN my_place REAL`,
		`ALTER TABLE ideas ADD COLUMN my_clicks INTEGER`,
		`ALTER TABLE ideas ADD COLUMN my_shown INTEGER`,
		`ALTER TABLE ideas ADD COLUMN my_page TEXT NOT NULL DEFAULT ''`,
	}},
	{"28-weeks", []string{
		`CREATE TABLE histories (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, body BLOB NOT NULL)`,
		`ALTER TABLE ideas ADD COLUMN steadiness REAL`,
		`ALTER TABLE ideas ADD COLUMN weeks INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN youngest REAL`,
		`ALTER TABLE ideas ADD COLUMN ages_at DATETIME`,
		`ALTER TABLE ideas ADD COLUMN age_error TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN week_error TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE niches ADD COLUMN earning TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE niches ADD COLUMN ten_columns TEXT NOT NULL DEFAULT ''`,
	}},
	{"29-elsewhere", []string{
		`ALTER TABLE niches ADD COLUMN depth INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE niches ADD COLUMN elsewhere TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN alike REAL`,
		`ALTER TABLE ideas ADD COLUMN my_tilt REAL`,
		`ALTER TABLE ideas ADD COLUMN elsewhere_at DATETIME`,
		`ALTER TABLE ideas ADD COLUMN elsewhere_error TEXT NOT NULL DEFAULT ''`,
	}},
	{"30-rivals", []string{
		`CREATE TABLE rivals (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
			site TEXT NOT NULL, followed BOOLEAN NOT NULL DEFAULT 0, source TEXT NOT NULL DEFAULT '',
			as_of TEXT NOT NULL DEFAULT '', total INTEGER NOT NULL DEFAULT 0, asked TEXT NOT NULL DEFAULT '',
			asked_at DATETIME, pages TEXT NOT NULL DEFAULT '')`,
		`CREATE UNIQUE INDEX rivals_site ON rivals (niche_id, site)`,
		`CREATE TABLE rival_phrases (niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
			phrase TEXT NOT NULL, rival_id INTEGER NOT NULL, place INTEGER NOT NULL, page TEXT NOT NULL, searches INTEGER,
			visits REAL, PRIMARY KEY (niche_id, phrase, rival_id))` + withoutRowID,
	}},
	{"31-case", []string{
		`CREATE TABLE cases (niche_id INTEGER PRIMARY KEY REFERENCES niches(id) ON DELETE CASCADE,
			body TEXT NOT NULL)`,
		`CREATE TABLE verdicts (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
			said TEXT NOT NULL, words TEXT NOT NULL, figures TEXT NOT NULL, person TEXT NOT NULL DEFAULT '',
			at DATETIME NOT NULL)`,
		`CREATE INDEX verdicts_niche ON verdicts (niche_id, id)`,
	}},
	{"31-strays", []string{
		`ALTER TABLE ideas ADD COLUMN side INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN part INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE ideas ADD COLUMN side_why TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE ideas ADD COLUMN side_hand INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE decisions ADD COLUMN side INTEGER`,
		`CREATE INDEX ideas_strays ON ideas (niche_id) WHERE side = 2 OR side_hand <> 0`,
	}},
	{"32-watch", []string{
		`CREATE TABLE watcheds (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
			phrase TEXT NOT NULL, page TEXT NOT NULL DEFAULT '', topic_id INTEGER NOT NULL DEFAULT 0, out_at DATETIME,
			forecast TEXT NOT NULL DEFAULT '', created_at DATETIME NOT NULL, removed_at DATETIME)`,
		`CREATE UNIQUE INDEX watcheds_phrase ON watcheds (niche_id, phrase)`,
		`CREATE TABLE positions (id INTEGER PRIMARY KEY,
			watched_id INTEGER NOT NULL REFERENCES watcheds(id) ON DELETE CASCADE, at DATETIME NOT NULL, engine TEXT NOT NULL,
			place INTEGER NOT NULL, depth INTEGER NOT NULL, page TEXT NOT NULL DEFAULT '', others TEXT NOT NULL DEFAULT '',
			above TEXT NOT NULL DEFAULT '', hand INTEGER NOT NULL DEFAULT 0)`,
		`CREATE UNIQUE INDEX positions_watched ON positions (watched_id, at, engine)`,
		`CREATE INDEX positions_places ON positions (watched_id, at, place)`, // the line of a page, from the index alone
		`CREATE TABLE remarks (id INTEGER PRIMARY KEY,
			watched_id INTEGER NOT NULL REFERENCES watcheds(id) ON DELETE CASCADE, day TEXT NOT NULL, says TEXT NOT NULL,
			created_at DATETIME NOT NULL)`,
		`CREATE INDEX remarks_watched ON remarks (watched_id, day)`,
		`CREATE TABLE mendings (niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, url TEXT NOT NULL,
			fault TEXT NOT NULL, state TEXT NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (niche_id, url, fault))` + withoutRowID,
		`CREATE TABLE watches (niche_id INTEGER PRIMARY KEY REFERENCES niches(id) ON DELETE CASCADE,
			every_days INTEGER NOT NULL DEFAULT 0, checked_at DATETIME)`,
	}},
	{"32-scenes", []string{
		`ALTER TABLE watcheds ADD COLUMN site TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE watcheds ADD COLUMN faced TEXT NOT NULL DEFAULT ''`,
		`DROP INDEX IF EXISTS watcheds_phrase`,
		`CREATE UNIQUE INDEX watcheds_phrase ON watcheds (niche_id, site, phrase)`,
		`ALTER TABLE positions ADD COLUMN scene TEXT NOT NULL DEFAULT ''`,
		`DROP INDEX IF EXISTS positions_watched`,
		`CREATE UNIQUE INDEX positions_watched ON positions (watched_id, scene, at, engine)`,
		`DROP INDEX IF EXISTS positions_places`,
		`CREATE INDEX positions_places ON positions (watched_id, scene, at, place, engine)`,
		`ALTER TABLE watches ADD COLUMN scenes TEXT NOT NULL DEFAULT ''`,
		`CREATE TABLE own_sites (niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, site TEXT NOT NULL,
			name TEXT NOT NULL, PRIMARY KEY (niche_id, site))` + withoutRowID,
		`CREATE TABLE own_reads (niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, site TEXT NOT NULL,
			url TEXT NOT NULL, at DATETIME NOT NULL, trouble TEXT NOT NULL DEFAULT '', says TEXT NOT NULL DEFAULT '',
			listed INTEGER NOT NULL DEFAULT 0, millis INTEGER NOT NULL DEFAULT 0, no_index BOOLEAN NOT NULL DEFAULT 0,
			broken TEXT NOT NULL DEFAULT '', links TEXT NOT NULL DEFAULT '', PRIMARY KEY (niche_id, site, url))` +
			withoutRowID,
		`CREATE TABLE owns (niche_id INTEGER PRIMARY KEY REFERENCES niches(id) ON DELETE CASCADE,
			body TEXT NOT NULL DEFAULT '', outcomes BLOB, curve TEXT NOT NULL DEFAULT '')`,
	}},
	{"33-people", []string{
		`CREATE TABLE members (id INTEGER PRIMARY KEY, name TEXT NOT NULL, role TEXT NOT NULL,
			password TEXT NOT NULL DEFAULT '', budget INTEGER NOT NULL DEFAULT 0, created_at DATETIME NOT NULL,
			removed_at DATETIME)`,
		`CREATE UNIQUE INDEX members_name ON members (name COLLATE NOCASE)`,
		`CREATE TABLE sessions (id INTEGER PRIMARY KEY, hash TEXT NOT NULL,
			member_id INTEGER NOT NULL REFERENCES members(id) ON DELETE CASCADE, created_at DATETIME NOT NULL,
			seen_at DATETIME NOT NULL, address TEXT NOT NULL DEFAULT '', agent TEXT NOT NULL DEFAULT '')`,
		`CREATE UNIQUE INDEX sessions_hash ON sessions (hash)`,
		`CREATE INDEX sessions_member ON sessions (member_id)`,
		`CREATE TABLE invitations (hash TEXT PRIMARY KEY, name TEXT NOT NULL, role TEXT NOT NULL,
			member_id INTEGER NOT NULL DEFAULT 0, by TEXT NOT NULL DEFAULT '', ends_at DATETIME NOT NULL)` + withoutRowID,
		`CREATE TABLE passkeys (id INTEGER PRIMARY KEY,
			member_id INTEGER NOT NULL REFERENCES members(id) ON DELETE CASCADE, name TEXT NOT NULL, credential TEXT NOT NULL,
			created_at DATETIME NOT NULL, used_at DATETIME)`,
		`CREATE INDEX passkeys_member ON passkeys (member_id)`,
		`CREATE TABLE ceremonies (hash TEXT PRIMARY KEY, member_id INTEGER NOT NULL DEFAULT 0, body TEXT NOT NULL,
			ends_at DATETIME NOT NULL)` + withoutRowID,
		`CREATE TABLE attempts (key TEXT NOT NULL, at DATETIME NOT NULL)`,
		`CREATE INDEX attempts_key ON attempts (key, at)`,
		`CREATE TABLE deeds (id INTEGER PRIMARY KEY, at DATETIME NOT NULL, person TEXT NOT NULL,
			niche_id INTEGER NOT NULL DEFAULT 0, act TEXT NOT NULL, what TEXT NOT NULL DEFAULT '',
			address TEXT NOT NULL DEFAULT '')`,
	}},
}

// topicSteps are what topics brought.
var topicSteps = []string{
	`ALTER TABLE niches ADD COLUMN week_hours INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE niches ADD COLUMN kind_hours TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE niches ADD COLUMN lead_days INTEGER NOT NULL DEFAULT 90`,
	`ALTER TABLE niches ADD COLUMN week_start INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE niches ADD COLUMN scope TEXT NOT NULL DEFAULT 'kept'`,
	`ALTER TABLE niches ADD COLUMN shared INTEGER NOT NULL DEFAULT 3`,
	`ALTER TABLE niches ADD COLUMN plans INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE ideas ADD COLUMN clicks_low REAL NOT NULL DEFAULT -1`,
	`ALTER TABLE ideas ADD COLUMN clicks_high REAL NOT NULL DEFAULT -1`,
	`ALTER TABLE ideas ADD COLUMN article TEXT NOT NULL DEFAULT ''`,
	`CREATE TABLE founds (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE, pages TEXT NOT NULL,
		stems TEXT NOT NULL, said TEXT NOT NULL)`,
	`CREATE TABLE topics (id INTEGER PRIMARY KEY, niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		name TEXT NOT NULL DEFAULT '', lead_id INTEGER NOT NULL DEFAULT 0, phrase TEXT NOT NULL DEFAULT '',
		hub TEXT NOT NULL DEFAULT '', state TEXT NOT NULL DEFAULT '', place REAL NOT NULL DEFAULT 0,
		hours INTEGER NOT NULL DEFAULT 0, start TEXT NOT NULL DEFAULT '', deadline TEXT NOT NULL DEFAULT '',
		address TEXT NOT NULL DEFAULT '', published TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT '',
		brief TEXT NOT NULL DEFAULT '', created_at DATETIME NOT NULL,
		changed_at DATETIME NOT NULL)`,
	`CREATE INDEX topics_niche ON topics (niche_id)`,
	`CREATE TABLE placements (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE,
		niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE,
		topic_id INTEGER NOT NULL REFERENCES topics(id) ON DELETE CASCADE)`,
	`CREATE INDEX placements_niche ON placements (niche_id)`,
	`CREATE INDEX placements_topic ON placements (topic_id)`,
	`CREATE TABLE topic_changes (id INTEGER PRIMARY KEY,
		niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, says TEXT NOT NULL, before TEXT NOT NULL,
		created_at DATETIME NOT NULL)`,
	`CREATE INDEX topic_changes_niche ON topic_changes (niche_id, id)`,
	`CREATE TABLE own_pages (niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, url TEXT NOT NULL,
		title TEXT NOT NULL, at DATETIME NOT NULL, PRIMARY KEY (niche_id, url))` + withoutRowID,
	`CREATE TABLE actions (idea_id INTEGER PRIMARY KEY REFERENCES ideas(id) ON DELETE CASCADE,
		niche_id INTEGER NOT NULL REFERENCES niches(id) ON DELETE CASCADE, done TEXT NOT NULL, at DATETIME NOT NULL)`,
	`UPDATE niches SET calibration = ''`, // so that what was found is taken from the evidence
}

// migrate brings the file to the present schema; of one that was there a copy is kept.
func (s *Store) migrate(there bool) error {
	if there {
		if err := s.keepBefore(); err != nil {
			return err
		}
	}
	list := []*gormigrate.Migration{migration(firstStep, schema)}
	for _, step := range steps {
		list = append(list, migration(step.name, step.statements))
	}
	err := gormigrate.New(s.db, &gormigrate.Options{TableName: "migrations", IDColumnName: "id", IDColumnSize: 64,
		UseTransaction: true, ValidateUnknownMigrations: true}, list).Migrate()
	if errors.Is(err, gormigrate.ErrUnknownPastMigration) {
		return &Trouble{Says: "the data file was written by a newer version of this program",
			Do: "use that one, or bring back the copy that it kept from before", Err: err}
	}
	return TroubleIn(err)
}

func migration(name string, statements []string) *gormigrate.Migration {
	return &gormigrate.Migration{ID: name, Migrate: func(tx *gorm.DB) error {
		for _, statement := range statements {
			if err := tx.Exec(statement).Error; err != nil {
				return fmt.Errorf("%.60s…: %w", statement, err)
			}
		}
		return nil
	}}
}
