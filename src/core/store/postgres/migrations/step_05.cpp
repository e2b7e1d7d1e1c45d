// SPDX-License-Identifier: GPL-3.0-or-later
// Functions that temporary tables cannot deceive, and rows that change in one column only.
#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

const std::vector<const char*> step_05{
    // Guards read the studio's own tables and the server's own catalogues. Without this a table that somebody
    // makes for one session, under the name of one of them, would be read in its place.
    R"(DO $$ DECLARE f regprocedure; BEGIN
                 FOR f IN SELECT p.oid::regprocedure FROM pg_catalog.pg_proc p
                   JOIN pg_catalog.pg_namespace n ON n.oid = p.pronamespace WHERE n.nspname = 'optrel'
                 LOOP EXECUTE 'ALTER FUNCTION ' || f || ' SET search_path = pg_catalog, optrel, pg_temp'; END LOOP;
               END $$)",
    // Nobody needs tables of a session, or a place in the schema that everybody reads. Who may not settle that
    // here, because the database is somebody else's, goes without.
    R"(DO $$ BEGIN
                 EXECUTE format('REVOKE TEMPORARY ON DATABASE %I FROM PUBLIC', current_database());
                 REVOKE CREATE ON SCHEMA public FROM PUBLIC;
               EXCEPTION WHEN insufficient_privilege OR invalid_schema_name THEN NULL; END $$)",
    // A rollout that was begun changes in its state alone, and a remark in whether it is settled.
    R"(CREATE FUNCTION guard_change() RETURNS trigger LANGUAGE plpgsql
               SET search_path = pg_catalog, optrel, pg_temp AS $$ BEGIN
                 IF NOT is_owner(TG_RELID) AND to_jsonb(NEW) - TG_ARGV[0] IS DISTINCT FROM to_jsonb(OLD) - TG_ARGV[0]
                 THEN RAISE EXCEPTION 'nothing but % changes in %', TG_ARGV[0], TG_TABLE_NAME
                   USING ERRCODE = '42501'; END IF;
                 RETURN NEW;
               END $$)",
    "CREATE TRIGGER changed BEFORE UPDATE ON rollouts FOR EACH ROW EXECUTE FUNCTION guard_change('status')",
    "CREATE TRIGGER changed BEFORE UPDATE ON remarks FOR EACH ROW EXECUTE FUNCTION guard_change('settled')",
    // A withdrawn key can be neither deleted nor trusted again.
    R"(CREATE FUNCTION guard_withdrawal() RETURNS trigger LANGUAGE plpgsql
               SET search_path = pg_catalog, optrel, pg_temp AS $$ BEGIN
                 IF OLD.withdrawn <> '' AND NOT is_owner(TG_RELID) THEN
                   IF TG_OP = 'DELETE' THEN
                     RAISE EXCEPTION 'a withdrawn key cannot be deleted' USING ERRCODE = '42501'; END IF;
                   IF NEW.trusted OR (NEW.key, NEW.withdrawn) IS DISTINCT FROM (OLD.key, OLD.withdrawn) THEN
                     RAISE EXCEPTION 'a withdrawal cannot be undone' USING ERRCODE = '42501'; END IF;
                 END IF;
                 IF TG_OP = 'DELETE' THEN RETURN OLD; END IF;
                 RETURN NEW;
               END $$)",
    "CREATE TRIGGER kept BEFORE UPDATE OR DELETE ON measurers FOR EACH ROW EXECUTE FUNCTION "
    "guard_withdrawal()",
    R"(CREATE FUNCTION server_time() RETURNS TEXT LANGUAGE sql VOLATILE
               SET search_path = pg_catalog, optrel, pg_temp AS
               $$ SELECT to_char(clock_timestamp() AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') $$)",
    // The server sets the times of judgements and rollouts.
    R"(CREATE FUNCTION time_judgement() RETURNS trigger LANGUAGE plpgsql
               SET search_path = pg_catalog, optrel, pg_temp AS $$ BEGIN
                 IF NOT is_owner(TG_RELID) THEN NEW.judged := server_time(); END IF; RETURN NEW;
               END $$)",
    "CREATE TRIGGER timed BEFORE UPDATE ON proposals FOR EACH ROW EXECUTE FUNCTION time_judgement()",
    R"(CREATE FUNCTION time_rollout() RETURNS trigger LANGUAGE plpgsql
               SET search_path = pg_catalog, optrel, pg_temp AS $$ BEGIN
                 IF NOT is_owner(TG_RELID) THEN NEW.time := server_time(); END IF; RETURN NEW;
               END $$)",
    "CREATE TRIGGER timed BEFORE INSERT ON rollouts FOR EACH ROW EXECUTE FUNCTION time_rollout()",
    // Where a second person is needed, each approval allows one rollout. A rollout that takes another one back
    // may not have more frames than that one. The lock lets the server count one insertion after another; a
    // snapshot from before the lock would hide what was committed meanwhile, so such transactions are refused.
    R"(CREATE OR REPLACE FUNCTION guard_rollout() RETURNS trigger LANGUAGE plpgsql
               SET search_path = pg_catalog, optrel, pg_temp AS $$
               DECLARE approved INTEGER; since TEXT; begun INTEGER;
               BEGIN
                 IF is_owner(TG_RELID) OR NOT EXISTS (SELECT FROM settings WHERE name = 'second person for a rollout'
                   AND NEW.frames > value::integer) THEN RETURN NEW; END IF;
                 IF NEW.takes_back <> 0 THEN
                   IF EXISTS (SELECT FROM rollouts WHERE number = NEW.takes_back AND frames >= NEW.frames) THEN
                     RETURN NEW; END IF;
                   RAISE EXCEPTION 'there is no such rollout to be taken back' USING ERRCODE = '42501'; END IF;
                 IF current_setting('transaction_isolation') <> 'read committed' THEN
                   RAISE EXCEPTION 'a rollout begins in a transaction that reads what is committed'
                     USING ERRCODE = '42501'; END IF;
                 PERFORM pg_advisory_xact_lock(1869640705, 2);
                 SELECT count(*), min(judged) INTO approved, since FROM proposals WHERE kind = 'rollout' AND
                   state = 'approved' AND (document::jsonb ->> 'revision')::integer = NEW.revision AND
                   (document::jsonb ->> 'frames')::integer = NEW.frames;
                 SELECT count(*) INTO begun FROM rollouts WHERE revision = NEW.revision AND frames = NEW.frames AND
                   takes_back = 0 AND time >= since;
                 IF approved <= begun THEN
                   RAISE EXCEPTION 'a second person has to look at it' USING ERRCODE = '42501'; END IF;
                 RETURN NEW;
               END $$)",
};

}  // namespace optrel::postgres
