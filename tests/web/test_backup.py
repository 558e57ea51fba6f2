"""Everything in one file and back; and what was made is removed when it was said to be."""

import os
import subprocess
import sys
import tarfile
from datetime import timedelta
from pathlib import Path

import pytest
from django.conf import settings as django_settings
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.management import CommandError, call_command
from django.db import connection
from django.utils import timezone

from tests.browser.application import ROOT, fresh_database
from tinfork.web.handover.actions import ask_for
from tinfork.web.handover.tasks import make_handover
from tinfork.web.handover.wishes import Wish
from tinfork.web.jobs.models import Job
from tinfork.web.sound.models import SoundFile
from tinfork.web.upkeep import backup
from tinfork.web.upkeep.pruning import prune


def elsewhere(folder, *command):
    """Run a command on another folder and its own database; what it said."""
    environment = os.environ | {
        "TINFORK_DATA": str(folder),
        "TINFORK_DATABASE_URL": elsewhere.url,
    }
    run = [sys.executable, "manage.py", *command]
    return subprocess.run(run, env=environment, cwd=ROOT, capture_output=True, text=True, check=False)


@pytest.fixture
def empty(tmp_path):
    """Another folder, with a database of its own, in which nothing is."""
    known = connection.settings_dict
    address = f"postgres://{known['USER']}:{known['PASSWORD']}@{known['HOST']}:{known['PORT']}/postgres"
    elsewhere.url = fresh_database(f"{known['NAME']}_restored", address)
    folder = tmp_path / "empty"
    folder.mkdir()
    return folder


@pytest.mark.slow
def test_a_backup_comes_back_to_an_empty_folder_and_nowhere_else(transactional_db, ferry, tmp_path, empty):
    file = tmp_path / "all.tar"
    call_command("backup", str(file))
    assert file.stat().st_mode & 0o777 == 0o600
    with pytest.raises(CommandError, match="something here already"):
        call_command("restore", str(file))

    broken = bytearray(file.read_bytes())
    broken[len(broken) // 2] ^= 255
    (tmp_path / "broken.tar").write_bytes(broken)
    (tmp_path / "short.tar").write_bytes(bytes(file.read_bytes()[:5000]))
    for name in ("broken.tar", "short.tar", "missing.tar"):
        with pytest.raises(backup.BackupError, match="no backup of a Tin Fork"):
            backup.checked(tmp_path / name)
    refused = elsewhere(empty, "restore", str(tmp_path / "broken.tar"))
    assert "no backup of a Tin Fork" in refused.stderr, refused.stderr
    assert not any(path.is_file() for path in empty.rglob("*"))

    done = elsewhere(empty, "restore", str(file))
    assert done.returncode == 0, done.stderr
    told = elsewhere(
        empty,
        "shell", "-v", "0", "-c",
        "from tinfork.web.staves.models import Stave; from tinfork.web.staves.seeing import track_of; "
        "s = Stave.objects.get(); print(s.version, [w.text for w in s.reading_value.words()], len(track_of(s)))",
    ).stdout  # fmt: skip
    texts = [word.text for word in ferry.fresh.reading_value.words()]
    assert told.strip() == f"{ferry.fresh.version} {texts} {len(ferry.track)}"
    kept = SoundFile.objects.get().original
    assert (empty / "files" / kept.name).read_bytes() == Path(kept.path).read_bytes()


@pytest.mark.slow
def test_only_what_is_not_up_to_date_is_copied_and_the_last_three_are_kept(
    transactional_db, ferry, tmp_path, monkeypatch
):
    call_command("backup", str(tmp_path / "copies"), "--if-outdated")
    assert not (tmp_path / "copies").exists()
    monkeypatch.setattr("tinfork.web.upkeep.management.commands.backup._outdated", lambda: True)
    (tmp_path / "copies").mkdir()
    for day in range(1, 6):
        (tmp_path / "copies" / f"before 2026-01-0{day} 00.00.00.tar").write_bytes(b"old")
    call_command("backup", str(tmp_path / "copies"), "--if-outdated")
    left = sorted(path.name for path in (tmp_path / "copies").iterdir())
    assert left[:2] == ["before 2026-01-04 00.00.00.tar", "before 2026-01-05 00.00.00.tar"]
    assert len(left) == 3
    assert backup.checked(tmp_path / "copies" / left[-1])


def test_a_backup_leads_nowhere_but_into_its_folder(tmp_path, db, monkeypatch):
    monkeypatch.setattr(backup, "is_empty", lambda: True)
    with tarfile.open(tmp_path / "evil.tar", "w") as out:
        entry = tarfile.TarInfo("files/../../escaped")
        out.addfile(entry)
    with pytest.raises(backup.BackupError):
        backup.restore(tmp_path / "evil.tar")
    assert not (tmp_path.parent / "escaped").exists()


def test_what_was_made_is_removed_when_it_was_said_to_be(ferry, settings):
    job = ask_for(ferry.owner, ferry.scene, Wish(kinds=["csv"]))
    make_handover(job_id=job.pk)
    job.refresh_from_db()
    kept = Path(job.handover.files.get().file.path)
    page = ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/hand-over/made").content.decode()
    assert f"kept until {job.kept_until:%-d %b}" in page
    default_storage.save("bundles/77/x.zip", ContentFile(b"x"))
    bundle = Job.objects.create(
        pk=77, scene=ferry.scene, person=ferry.owner, kind="bundle", subject=1, state="done",
        result="bundles/77/x.zip", ended_at=timezone.now() - timedelta(days=31),
    )  # fmt: skip
    assert prune() == 1
    assert not default_storage.exists(bundle.result.name)
    assert kept.exists()
    Job.objects.filter(pk=job.pk).update(ended_at=timezone.now() - timedelta(days=29))
    assert prune() == 0
    Job.objects.filter(pk=job.pk).update(ended_at=timezone.now() - timedelta(days=31))
    settings.KEEP_DAYS = 0
    assert prune() == 0
    settings.KEEP_DAYS = 30
    assert prune() == 1
    assert not kept.exists()
    assert not Job.objects.exists()


def test_the_unit_file_is_what_systemd_takes(tmp_path):
    unit = (django_settings.ROOT / "script" / "tinfork.service").read_text()
    here = str(django_settings.ROOT)
    own = (
        unit.replace("/srv/tinfork/tinfork", here)
        .replace("User=tinfork", "User=root")
        .replace("Group=tinfork", "Group=root")
    )
    (tmp_path / "tinfork.service").write_text(own)
    command = ["systemd-analyze", "verify", "--man=no", str(tmp_path / "tinfork.service")]
    told = subprocess.run(command, capture_output=True, text=True, check=False)
    assert (told.returncode, told.stderr) == (0, "")
    (tmp_path / "tinfork.service").write_text(own.replace("ExecStart=", "ExecBegin="))
    assert subprocess.run(command, capture_output=True, check=False).returncode
