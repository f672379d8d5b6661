#!/bin/sh
# Fetches what others wrote, to be read by ForeignMaterialTest, into a folder that is never committed: calendars that the calendar
# libraries of Debian test themselves with, the libraries that write and expand some, files of /etc/cron.d, a schema validator.
# Needs a Debian with its package lists, and python3.
set -eu
folder=$1
calendars="python3-icalendar evolution-data-server-tests golang-github-arran4-golang-ical-dev"
libraries="python3-icalendar python3-recurring-ical-events python3-x-wr-timezone python3-tz python3-dateutil python3-six python3-click
    python3-holidays python3-convertdate python3-pymeeus
    python3-jsonschema python3-attr python3-pyrsistent python3-yaml"
crontabs="amavisd-new atop awstats backupninja cacti certbot dma e2fsprogs inn2 john leafnode logcheck lyskom-server mailman3
    mailman3-web mdadm munin munin-node ntpsec php-common roundcube-core sa-exim shutdown-at-night sysstat tiger"

mkdir -p "$folder/packages" "$folder/crontabs" "$folder/python"
cd "$folder/packages"
for package in $calendars $libraries $crontabs; do
    ls "$package"_*.deb >/dev/null 2>&1 || apt-get download -qq "$package" 2>/dev/null || echo "there is no package $package" >&2
done
for package in $calendars; do
    for file in "$package"_*.deb; do
        mkdir -p "../calendars/$package"
        dpkg-deb -x "$file" "../calendars/$package"
    done
done
for package in $libraries; do
    for file in "$package"_*.deb; do
        [ ! -f "$file" ] || dpkg-deb -x "$file" ../python
    done
done
for package in $crontabs; do
    for file in "$package"_*.deb; do
        [ -f "$file" ] || continue
        dpkg-deb --fsys-tarfile "$file" | tar -xO --wildcards './etc/cron.d/[!.]*' >"../crontabs/$package" 2>/dev/null || rm -f "../crontabs/$package"
    done
done
