"""``./ft torture``: kills, database restarts and full disks while people work; then nothing may be lost or half."""
