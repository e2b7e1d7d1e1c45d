// SPDX-License-Identifier: GPL-3.0-or-later
// An approved proposal lends its author's name to one revision.
#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

const std::vector<const char*> step_11{
    // As before, but an approval does not count again after a revision was published from it. Whoever returns to that
    // revision later publishes it in their own name. A revision may state a time up to a minute before it is inserted,
    // so one that states a time within the minute before the approval counts as published from it, too.
    R"(CREATE OR REPLACE FUNCTION check_revision_author() RETURNS trigger LANGUAGE plpgsql
               SET search_path = pg_catalog, optrel, pg_temp AS $$
               DECLARE given jsonb := NEW.document::jsonb; written timestamptz; BEGIN
                 IF is_owner(TG_RELID) THEN RETURN NEW; END IF;
                 IF (given ->> 'author') IS DISTINCT FROM session_user::text AND NOT EXISTS (
                   SELECT FROM proposals p WHERE p.kind = 'revision' AND p.state = 'approved' AND
                     p.author = given ->> 'author' AND
                     p.document::jsonb = given - 'number' - 'author' - 'time' - 'note' AND NOT EXISTS (
                       SELECT FROM baselines b WHERE b.document::jsonb ->> 'author' = p.author AND
                         (b.document::jsonb ->> 'time')::timestamptz >=
                           p.judged::timestamptz - interval '60 seconds' AND
                         b.document::jsonb - 'number' - 'author' - 'time' - 'note' = p.document::jsonb)) THEN
                   RAISE EXCEPTION 'the author of this revision must be %', session_user
                     USING ERRCODE = '42501'; END IF;
                 IF coalesce(given ->> 'time', '') !~ '^[0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9]{2}:[0-9]{2}:[0-9]{2}Z$' THEN
                   RAISE EXCEPTION 'the revision must have a time such as %', server_time() USING ERRCODE = '22023';
                 END IF;
                 written := (given ->> 'time')::timestamptz;
                 IF abs(extract(epoch FROM clock_timestamp() - written)) > 60 THEN
                   RAISE EXCEPTION 'the time of this revision must be %', server_time() USING ERRCODE = '22023'; END IF;
                 RETURN NEW;
               END $$)",
};

}  // namespace optrel::postgres
