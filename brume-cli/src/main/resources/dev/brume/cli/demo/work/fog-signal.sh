# One long blast and two short ones.
echo "long"; sleep 3; echo "short"; sleep 1; echo "short"
