package dev.brume.cli;

import dev.brume.JobKey;
import dev.brume.NotThereException;
import dev.brume.port.History;
import dev.brume.schedule.Nearest;
import java.util.List;

/** The jobs that are defined, for whoever asks for one that is not. */
final class KnownJobs {
    private KnownJobs() {}

    /** {@return what to throw for a job that is not defined: it names the nearest one that is} */
    static NotThereException missing(History history, JobKey key) {
        List<String> names =
                history.jobs().stream().map(view -> view.row().key().toString()).toList();
        return NotThereException.ofJob(
                key,
                Nearest.to(key.toString(), names)
                        .map(name -> "; did you mean " + name + "?")
                        .orElse("; see brume jobs"));
    }
}
