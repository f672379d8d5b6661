package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.history.ChangeFilter;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.schedule.Nearest;
import java.util.List;
import java.util.Optional;

/** The jobs that are defined, for whoever asks for one that is not. */
final class KnownJobs {
    private KnownJobs() {}

    /** {@return what to throw for a job that is not defined: it names the nearest one that is} */
    static NotThereException missing(History history, JobName key) {
        Optional<JobName> now =
                Optional.ofNullable(history.renamed(List.of(key)).get(key));
        if (now.isPresent()) {
            return NotThereException.ofJob(key, "; it has been renamed to " + now.get());
        }
        List<JobName> known = history.jobs().stream().map(JobView::name).toList();
        return missing(key, known, "; see brume jobs");
    }

    /** As {@link #missing(History, JobName)}, of jobs that are known from elsewhere. */
    static NotThereException missing(JobName key, List<JobName> known, String otherwise) {
        return NotThereException.ofJob(
                key,
                Nearest.to(key.toString(), known.stream().map(JobName::toString).toList())
                        .map(name -> "; did you mean " + name + "?")
                        .orElse(otherwise));
    }

    /** Checks that there is a job of a name, or was one of which changes are on record. */
    static void check(History history, JobName key) {
        if (history.job(key).isEmpty()
                && history.changes(ChangeFilter.newest(1).of(key)).isEmpty()) {
            throw missing(history, key);
        }
    }
}
