#!/bin/sh
# One ledger over a folder with GNU parallel. Usage: parallel.sh LEDGER IN OUT
set -eu
here=$(dirname "$0")
mkdir -p "$3"
{
  echo "file,exit,seconds,says"
  find "$2" -maxdepth 1 \( -name '*.step' -o -name '*.stp' -o -name '*.igs' -o -name '*.brep' \) -print0 |
    sort -z | parallel -0 -k sh "$here/one.sh" "$1" {} "$3"
} > "$3/table.csv"
echo "$3/table.csv"
