#!/bin/sh
# Tells Vornak what is measured here, while it is measured: one request after the other with curl, a batch of lines
# each time there are ten.
#
#   VORNAK=http://127.0.0.1:4700 TOKEN=vornak-stream_… sh tell.sh http://127.0.0.1:4710/api/search 100
#
set -eu
: "${VORNAK:=http://127.0.0.1:4700}"
: "${TOKEN:?the token of a stream}"
url=${1:?the address to ask}
times=${2:-100}
lines=$(mktemp)
# Only grows, also when this program is started again: a number that was there before is not counted again.
batch=$(($(date +%s) * 1000))
trap 'rm -f "$lines"' EXIT

# A batch whose answer did not come is sent again under its number, for a minute, and is counted once.
tell() {
  batch=$((batch + 1))
  tried=0
  until curl -fsS -o /dev/null -H "Authorization: Bearer $TOKEN" --data-binary "@$lines" \
    "$VORNAK/api/told/lines?batch=$batch"; do
    tried=$((tried + 1))
    if [ "$tried" -ge 60 ]; then echo "batch $batch was not taken" >&2; exit 1; fi
    sleep 1
  done
  : > "$lines"
}

n=0
while [ "$n" -lt "$times" ]; do
  n=$((n + 1))
  # Seconds with a fraction and the status, as curl saw them; 000: no answer came.
  measured=$(curl -s -o /dev/null -m 10 -w '%{time_total} %{http_code} %{size_download}' "$url" || true)
  echo "$measured" | awk '{
    printf "{\"step\": \"one page\", \"duration\": %.3f, \"ok\": %s, \"status\": %d, \"bytes\": %d}\n",
      $1 * 1000, ($2 >= 200 && $2 < 400) ? "true" : "false", $2, $3 }' >> "$lines"
  [ $((n % 10)) -eq 0 ] && tell
done
[ -s "$lines" ] && tell
curl -fsS -o /dev/null -X POST -H "Authorization: Bearer $TOKEN" -H 'Content-Type: application/json' -d '{}' "$VORNAK/api/told/end"
