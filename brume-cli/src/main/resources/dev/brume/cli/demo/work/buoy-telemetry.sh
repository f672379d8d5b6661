# Three buoys answer, one after the other.
for buoy in north reef harbour; do
    echo "buoy $buoy: run $BRUME_RUN, wave height 1.$((BRUME_RUN % 9)) m"
done
