#!/bin/sh
# Is given a notice as JSON, and keeps its title.
title=$(sed -n 's/.*"title":"\([^"]*\)".*/\1/p')
echo "$(date '+%H:%M:%S')  $title" >> told.txt
