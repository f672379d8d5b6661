package dev.brume.cli;

import dev.brume.JobKey;
import dev.brume.NotThereException;
import dev.brume.port.ChangeFilter;
import dev.brume.port.History;
import dev.brume.port.JobView;
import dev.brume.schedule.Nearest;
import java.util.List;

/** The jobs that are defined, for whoever asks for one that is not. */
final class KnownJobs {
    private KnownJobs() {}

    /** {@return what to throw for a job that is not defined: it names the nearest one that is} */
    static NotThereException missing(History history, JobKey key) {
        List<JobKey> known = history.jobs().stream().map(JobView::key).toList();
        return missing(key, known, "; see brume jobs");
    }

    /** As {@link #missing(History, JobKey)}, of jobs that are known from elsewhere. */
    static NotThereException missing(JobKey key, List<JobKey> known, String otherwise) {
        return NotThereException.ofJob(
                key,
                Nearest.to(key.toString(), known.stream().map(JobKey::toString).toList())
                        .map(name -> "; did you mean " + name + "?")
                        .orElse(otherwise));
    }

    /** Checks that there is a job of a name, or was one of which changes are on record. */
    static void check(History history, JobKey key) {
        if (history.job(key).isEmpty()
                && history.changes(ChangeFilter.newest(1).of(key)).isEmpty()) {
            throw missing(history, key);
        }
    }
}
