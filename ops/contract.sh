#!/bin/sh
# Holds the front end's types to the API: fails when they drift; --write makes them anew.
set -eu
cd "$(dirname "$0")/.."
made=$(mktemp -d)
trap 'rm -rf "$made"' EXIT
PERCORSO_SECRET_KEY=contract .venv/bin/python server/manage.py export_openapi_schema \
    --api percorso_server.config.api.api --output "$made/openapi.json"
web/node_modules/.bin/openapi-typescript "$made/openapi.json" --default-non-nullable false --output "$made/schema.d.ts" >/dev/null
if [ "${1:-}" = --write ]; then
    cp "$made/schema.d.ts" web/src/api/schema.d.ts
elif ! cmp -s "$made/schema.d.ts" web/src/api/schema.d.ts; then
    echo "web/src/api/schema.d.ts does not fit the API any more; run: make api" >&2
    exit 1
fi
