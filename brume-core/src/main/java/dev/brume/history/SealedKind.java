package dev.brume.history;

/**
 * The kinds of rows that seals cover. Each row has a number within its kind; numbers rise, except that some are committed late.
 *
 * @since 0.1.0
 */
public enum SealedKind {
    /** Lines of the ledger with what their attempts printed, by run id. */
    LINE("ledger line of run ", 5000),
    /** Lines of the change log. */
    CHANGE("change log line ", 2000),
    /** Spans. */
    SPAN("span ", 5000),
    /** Versions of definitions, with what they are pinned to. */
    DEFINITION("definition ", 2000);

    private final String words;
    private final int most;

    SealedKind(String words, int most) {
        this.words = words;
        this.most = most;
    }

    /** {@return what a row that is not there is called} */
    public String row(long number) {
        return words + number;
    }

    /** {@return how many rows a seal covers at most} */
    public int most() {
        return most;
    }
}
