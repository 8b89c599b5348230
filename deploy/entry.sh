#!/bin/sh
# What a container does: migrate | serve | work | watch | any other command of the server.
set -eu
python=.venv/bin/python
case "${1:-serve}" in
  migrate) exec "$python" manage.py migrate --no-input ;;
  serve) exec env FAIR_TEXEL_WORKERS=0 "$python" -m ground.supervisor "${FAIR_TEXEL_PORT:-8000}" ;;
  work) shift; exec "$python" manage.py work "$@" ;;
  *) exec "$python" manage.py "$@" ;;
esac
