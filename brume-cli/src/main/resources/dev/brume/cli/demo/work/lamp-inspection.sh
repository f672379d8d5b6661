# Six lamps, one second each.
for lamp in pier-head mole-north mole-south fairway-1 fairway-2 leading-light; do
    sleep 1
    echo "lamp $lamp: lit (fence $BRUME_FENCE)"
done
