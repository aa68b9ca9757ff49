"""Backing up a whole site and restoring it: the database and all media of one moment in one TAR, encrypted where there is a key."""

from lacertus.local.backup.archive import BackupFailed, BadBackup
from lacertus.local.backup.restoring import restore
from lacertus.local.backup.writing import back_up

__all__ = ["BackupFailed", "BadBackup", "back_up", "restore"]
