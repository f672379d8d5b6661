package dev.brume.ical;

/** How many days the rules of a whole file may still look at. Confined to one thread. */
final class Effort {
    /** A few seconds' work, and what a thousand yearly events need thirty times over. */
    private static final int MOST = 10_000_000;

    private final String where;
    private int left = MOST;
    private String event = "";

    Effort(String where) {
        this.where = where;
    }

    /** Says whose rule is looked at from now on. */
    void of(String name) {
        event = name;
    }

    void spend() {
        if (--left < 0) {
            throw Problems.of(
                    where,
                    event,
                    0,
                    "brings the file above " + MOST + " days to look at until " + CalendarFile.LAST_YEAR
                            + " (give events that recur daily or more often an UNTIL, or make one long event of them)");
        }
    }
}
