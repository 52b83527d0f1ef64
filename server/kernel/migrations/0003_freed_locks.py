"""A worker is told when a lock comes free with jobs still waiting for it; without that they wait for its next look."""

from django.db import migrations

TOLD = """
CREATE FUNCTION sulvak_lock_freed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF OLD.status = 'doing' AND OLD.lock IS NOT NULL
        AND EXISTS (SELECT 1 FROM procrastinate_jobs WHERE lock = OLD.lock AND status = 'todo') THEN
        PERFORM pg_notify(
            'procrastinate_any_queue_v1', json_build_object('type', 'job_inserted', 'job_id', OLD.id)::text
        );
    END IF;
    RETURN NULL;
END;
$$;
CREATE TRIGGER sulvak_lock_freed AFTER DELETE OR UPDATE OF status ON procrastinate_jobs
    FOR EACH ROW EXECUTE FUNCTION sulvak_lock_freed();
"""
UNTOLD = """
DROP TRIGGER sulvak_lock_freed ON procrastinate_jobs;
DROP FUNCTION sulvak_lock_freed();
"""


class Migration(migrations.Migration):
    dependencies = [
        ("kernel", "0002_buildrecord_kernel"),
        ("procrastinate", "0041_post_retry_failed_job"),
    ]

    operations = [migrations.RunSQL(TOLD, UNTOLD)]
