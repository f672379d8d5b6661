package dev.brume.seal;

/**
 * Where sealing stands.
 *
 * @param number of the newest seal, 0 if there is none
 * @param digest of it; {@link #NOTHING} if there is none
 * @param highRun beyond it, no ledger line is sealed
 * @param openRuns numbers up to there that were not on record when their neighbours were sealed
 * @param highChange beyond it, no line of the change log is sealed
 * @param openChanges numbers up to there that were not on record
 */
public record SealHead(
        long number, String digest, long highRun, IdRanges openRuns, long highChange, IdRanges openChanges) {
    /** The digest before the first seal. */
    public static final String NOTHING = "0".repeat(64);

    /** Nothing sealed. */
    public static final SealHead NONE = new SealHead(0, NOTHING, 0, IdRanges.NONE, 0, IdRanges.NONE);
}
