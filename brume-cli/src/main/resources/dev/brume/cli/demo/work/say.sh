# Says one thing.
sleep 0.2
echo "$1"
