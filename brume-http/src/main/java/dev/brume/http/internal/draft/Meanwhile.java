package dev.brume.http.internal.draft;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.Views;
import dev.brume.definitions.YamlText;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.insight.diff.DefinitionDiff;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What somebody else did to a job since a draft of it was begun.
 *
 * @param history of the cluster
 * @param name of the job
 * @param seen the version that the draft began with
 */
record Meanwhile(History history, JobName name, Seen seen) {
    private static final int LOOKED_AT = 20;

    /**
     * {@return it; empty if it is nothing}
     *
     * @param there the job as it is now; empty if there is none
     * @param mine the draft, if it can be read
     */
    Optional<Map<String, Object>> view(Optional<JobView> there, Optional<Job> mine) {
        if (there.filter(view -> view.row().id() == seen.job()).isEmpty()) {
            return Optional.of(dropped(there.isPresent()));
        }
        return there.filter(view -> view.row().version() != seen.version()).map(view -> changed(view, mine));
    }

    private static Map<String, Object> dropped(boolean another) {
        return Views.object(
                "version",
                null,
                "tag",
                null,
                "says",
                "the job was dropped" + (another ? ", and another of that name is there now" : ""),
                "theirs",
                List.of(),
                "mine",
                List.of(),
                "clashes",
                List.of(),
                "merged",
                null,
                "document",
                null);
    }

    private Map<String, Object> changed(JobView view, Optional<Job> mine) {
        Map<String, Object> theirs = Written.document(view.job());
        Optional<Job> base = history.version(name, seen.version());
        Optional<Merge> merge = base.flatMap(
                before -> mine.map(own -> Merge.of(Written.document(before), Written.document(own), theirs)));
        return Views.object(
                "version", view.row().version(),
                "tag", Seen.of(view).tag(),
                "says", who(view.row().version()),
                "theirs",
                        base.map(before -> DefinitionDiff.lines(before, view.job()))
                                .orElse(List.of()),
                "mine",
                        base.flatMap(before -> mine.map(own -> DefinitionDiff.lines(before, own)))
                                .orElse(List.of()),
                "clashes", merge.map(Merge::clashes).orElse(List.of()),
                "merged", merge.map(both -> YamlText.of(both.document())),
                "document", YamlText.of(theirs));
    }

    private String who(int version) {
        return history.changes(ChangeFilter.newest(LOOKED_AT).of(name)).stream()
                .map(ChangeView::change)
                .filter(each ->
                        each.versionAfter().filter(after -> after == version).isPresent())
                .findFirst()
                .map(each -> each.who() + " put version " + version + " in force"
                        + (each.because().isEmpty() ? "" : ": " + each.because()))
                .orElse("version " + version + " was put in force");
    }
}
