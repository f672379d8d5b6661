package dev.brume.insight.past;

import dev.brume.JobName;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.History;
import java.time.Instant;
import java.util.List;

/**
 * What jobs were called before they were renamed.
 *
 * @param lines of the change log, newest first
 */
record Renamings(List<ChangeView> lines) {
    private static final String SO_FAR = "so far ";
    private static final int MOST = 100_000;

    /** {@return all that were made from an instant on, inclusive} */
    static Renamings since(History history, Instant from) {
        return new Renamings(
                history.changes(ChangeFilter.newest(MOST).withKind("RENAMED").from(from)));
    }

    /** {@return what a job was called before them} */
    JobName before(JobName now) {
        JobName name = now;
        for (ChangeView line : lines) {
            if (line.change().job().filter(name::equals).isPresent()
                    && line.change().text().startsWith(SO_FAR)) {
                name = JobName.parse(line.change().text().substring(SO_FAR.length()));
            }
        }
        return name;
    }
}
