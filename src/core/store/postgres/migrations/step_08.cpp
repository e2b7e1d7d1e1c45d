// SPDX-License-Identifier: GPL-3.0-or-later
// Published rows have the next number, and documents that name the same one: a row that nobody can read would stay for
// good, because published rows are never deleted. Noise and fingerprints of bodies are
// kinds of measurements.
#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

const std::vector<const char*> step_08{
    R"(CREATE FUNCTION check_published() RETURNS trigger LANGUAGE plpgsql
               SET search_path = pg_catalog, optrel, pg_temp AS $$ DECLARE wanted jsonb; next integer; given integer; BEGIN
                 IF is_owner(TG_RELID) THEN RETURN NEW; END IF;
                 IF TG_TABLE_NAME = 'baselines' THEN
                   wanted := jsonb_build_object('number', NEW.number);
                   given := NEW.number;
                   SELECT coalesce(max(number), 0) + 1 INTO next FROM baselines;
                 ELSE
                   wanted := jsonb_build_object('id', NEW.id, 'version', NEW.version);
                   given := NEW.version;
                   SELECT coalesce(max(m.version), 0) + 1 INTO next FROM measurements m WHERE m.id = NEW.id;
                 END IF;
                 IF given IS DISTINCT FROM next THEN
                   RAISE EXCEPTION 'the next number here is %', next USING ERRCODE = '22023'; END IF;
                 IF NOT coalesce(NEW.document::jsonb @> wanted, false) THEN
                   RAISE EXCEPTION 'the document must contain %', wanted USING ERRCODE = '22023'; END IF;
                 RETURN NEW;
               END $$)",
    // Triggers fire in the order of their names: permissions ("guarded") are checked first.
    "CREATE TRIGGER whole BEFORE INSERT ON baselines FOR EACH ROW EXECUTE FUNCTION check_published()",
    "CREATE TRIGGER whole BEFORE INSERT ON measurements FOR EACH ROW EXECUTE FUNCTION check_published()",
    "INSERT INTO measurement_kinds VALUES ('noise', 'works'), ('fingerprint', 'works')",
};

}  // namespace optrel::postgres
