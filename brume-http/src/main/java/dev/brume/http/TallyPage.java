package dev.brume.http;

import dev.brume.http.internal.page.TallyReport;
import dev.brume.insight.tally.PeriodTally;
import java.util.Map;

/**
 * A tally as a page to be printed, for an auditor, with all that is needed to compute it again.
 *
 * @since 0.1.0
 */
public final class TallyPage {
    private TallyPage() {}

    /**
     * {@return the page, as HTML that stands alone}
     *
     * @param tally worked out line by line
     * @param facts about the page itself, by name, in their order
     */
    public static String of(PeriodTally tally, Map<String, String> facts) {
        return TallyReport.of(tally, facts).page();
    }
}
