"""Long work that waits in the database for a worker (``./giusto manage work``)."""

from django_tasks import task


@task()
def hear(upload_id: str) -> None:
    """Hear a recording and make a take of it."""
    from studio.recordings.actions import hear_upload

    hear_upload(upload_id)


@task()
def read(take_id: str) -> None:
    """Read a take whose sound is too long to be heard while its page waits."""
    from uuid import UUID

    from studio.takes.models import Reading
    from studio.takes.reading import read_take

    if not Reading.objects.filter(take_id=take_id).exists():
        read_take(UUID(take_id))
