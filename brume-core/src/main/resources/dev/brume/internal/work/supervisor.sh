# Brume: ends the programs that a process has started when that process is gone, however it went.
# Told on standard input: "+ TREE" before a program starts, "= TREE PID" once it runs, "- TREE" when it has ended.
trap '' TERM INT HUP QUIT
live=''
while read -r what tree pid; do
  rest=''
  for each in $live; do
    case $each in
      "$tree":*) ;;
      *) rest="$rest $each" ;;
    esac
  done
  live=$rest
  [ "$what" = - ] || live="$live $tree:$pid"
done

round=0
while [ $round -lt 40 ]; do
  found=''
  for each in $live; do
    pid=${each#*:}
    [ -z "$pid" ] || [ ! -d "/proc/$pid" ] || found="$found $pid"
    for file in $(grep -la "BRUME_TREE=${each%%:*}" /proc/[0-9]*/environ 2>/dev/null); do
      file=${file#/proc/}
      found="$found ${file%/environ}"
    done
  done
  grew=$found
  while [ -n "$grew" ]; do
    grew=''
    for stat in /proc/[0-9]*/stat; do
      read -r line 2>/dev/null <"$stat" || continue
      child=${line%% *}
      line=${line##*) }
      line=${line#* }
      case " $found " in
        *" $child "*) ;;
        *" ${line%% *} "*) found="$found $child" grew=yes ;;
      esac
    done
  done
  [ -n "$found" ] || exit 0
  kill -KILL $found 2>/dev/null
  round=$((round + 1))
  sleep 0.05
done
