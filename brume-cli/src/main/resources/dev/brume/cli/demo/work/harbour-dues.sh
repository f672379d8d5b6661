# The ledger office refuses the first attempt of every run.
echo "settling dues of $BRUME_PAYLOAD, attempt $BRUME_ATTEMPT"
if [ "$BRUME_ATTEMPT" = 1 ]; then
    echo "ledger office: the clerk is at lunch" >&2
    exit 3
fi
echo "dues settled"
