// SPDX-License-Identifier: GPL-3.0-or-later
// Measurements of any kind in place of profiles.
#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

const std::vector<const char*> step_07{
    "ALTER TABLE profiles RENAME TO measurements",
    "ALTER TABLE measurements ADD COLUMN kind words NOT NULL DEFAULT 'profile'",
    "ALTER TABLE measurements ALTER COLUMN kind DROP DEFAULT",
    "ALTER TABLE profile_events RENAME TO measurement_events",
    "ALTER TABLE measurement_events RENAME COLUMN profile TO measurement",
    "ALTER FUNCTION time_profile_event() RENAME TO time_measurement_event",
    // The least role that may publish a kind of measurement; the same as in the program's registry of kinds.
    "CREATE TABLE measurement_kinds (kind words PRIMARY KEY, publisher words NOT NULL)",
    "INSERT INTO measurement_kinds VALUES ('profile', 'works')",
    R"(CREATE FUNCTION guard_measurement() RETURNS trigger LANGUAGE plpgsql
               SET search_path = pg_catalog, optrel, pg_temp AS $$ BEGIN
                 IF is_owner(TG_RELID) THEN RETURN NEW; END IF;
                 IF NOT EXISTS (SELECT FROM measurement_kinds k WHERE k.kind = NEW.kind AND
                   pg_has_role(session_user, 'optrel_' || current_database() || '_' || k.publisher, 'member')) THEN
                   RAISE EXCEPTION 'your role may not publish this kind of measurement' USING ERRCODE = '42501'; END IF;
                 IF EXISTS (SELECT FROM settings WHERE name = 'second person for a ' || NEW.kind)
                   AND NOT EXISTS (SELECT FROM proposals p WHERE p.kind = NEW.kind AND p.state = 'approved' AND
                     p.document::jsonb - 'id' - 'version' = NEW.document::jsonb - 'id' - 'version') THEN
                   RAISE EXCEPTION 'this measurement needs the approval of a second person' USING ERRCODE = '42501'; END IF;
                 RETURN NEW;
               END $$)",
    "DROP TRIGGER guarded ON measurements",
    "CREATE TRIGGER guarded BEFORE INSERT ON measurements FOR EACH ROW EXECUTE FUNCTION guard_measurement()",
    "DROP FUNCTION guard_profile()",
};

}  // namespace optrel::postgres
