# Waits for an archive that never answers.
echo "waiting for the archive"
sleep 600
