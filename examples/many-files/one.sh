#!/bin/sh
# One file: runs the ledger, writes NAME.step and NAME.report.json into the folder, prints a line for the table.
# Usage: one.sh LEDGER FILE FOLDER
ledger=$1 file=$2 out=$3
name=$(basename "$file")
began=$(date +%s)
"${CLI:-rasoir-cli}" run "$ledger" --in "$file" --out "$out/${name%.*}.step" --report "$out/${name%.*}.report.json" \
  > "$out/$name.log" 2>&1
code=$?
# Exit codes are told in the table, not to make: one file that is refused does not stop the others.
printf '%s,%s,%s,"%s"\n' "$name" "$code" "$(($(date +%s) - began))" "$(tail -1 "$out/$name.log" | tr -d '"')"
