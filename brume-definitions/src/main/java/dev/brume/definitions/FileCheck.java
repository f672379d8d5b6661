package dev.brume.definitions;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.insight.check.NoticeWarnings;
import dev.brume.insight.check.PileUps;
import dev.brume.insight.check.Warnings;
import dev.brume.schedule.Counting;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * What is allowed in a definition file and will surprise people all the same. Stateless.
 *
 * @since 0.1.0
 */
public final class FileCheck {
    private FileCheck() {}

    /**
     * A warning.
     *
     * @param line where it is, counted from 1
     * @param job that it is about; empty if it is about several, or about the file
     * @param text what will surprise, in a sentence
     */
    public record Warning(int line, Optional<JobName> job, String text) {}

    /**
     * {@return the warnings about a file, by their lines}
     *
     * @param now from when on it is looked ahead
     */
    public static List<Warning> of(DefinitionFile file, Instant now) {
        List<Job> jobs = file.jobs().stream()
                .map(job -> job.countedFrom(Counting.from(now)))
                .toList();
        Set<JobName> followers = Warnings.followers(jobs);
        List<Warning> warnings = new ArrayList<>(jobs.parallelStream()
                .flatMap(job -> Warnings.of(job, now, followers).stream()
                        .map(text ->
                                new Warning(file.lines().getOrDefault(job.name(), 1), Optional.of(job.name()), text)))
                .toList());
        PileUps.of(jobs, now).forEach(pileUp -> warnings.add(new Warning(1, Optional.empty(), pileUp.sentence())));
        NoticeWarnings.of(file.telling(), jobs)
                .forEach((key, texts) -> texts.forEach(text ->
                        warnings.add(new Warning(file.noticeLines().getOrDefault(key, 1), Optional.empty(), text))));
        file.warnings().forEach(warning -> warnings.add(new Warning(warning.line(), Optional.empty(), warning.text())));
        warnings.sort(Comparator.comparingInt(Warning::line));
        return warnings;
    }
}
