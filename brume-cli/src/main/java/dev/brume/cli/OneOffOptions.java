package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.cli.desk.OneOffReply;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import picocli.CommandLine.Parameters;

/** Which one-off an order is about. */
final class OneOffOptions {
    @Parameters(index = "0", paramLabel = "JOB", description = "NAME or NAMESPACE/NAME.")
    private String job;

    @Parameters(
            index = "1",
            paramLabel = "KEY",
            description =
                    "The key it is ordered under: of each key of a job one waits at most. At most 150 characters.")
    private String key;

    /** {@return the name of the job} */
    JobName job() {
        return OrderOptions.key(job);
    }

    /** {@return the key} */
    String key() {
        return key;
    }

    /** Says what became of an order about it. */
    int report(OrderReport report, OneOffReply answer, Object... members) {
        List<Object> all = new ArrayList<>(Arrays.asList(members));
        all.addAll(List.of("answer", answer.kind()));
        answer.run().ifPresent(run -> all.addAll(List.of("run", run)));
        String run = answer.run().map(id -> "run " + id).orElse("a run");
        return switch (answer.kind()) {
            case ADDED -> report.done("ordered " + this + ", as " + run + due(members), all.toArray());
            case MOVED -> report.done("moved " + this + ", " + run + due(members), all.toArray());
            case UNCHANGED -> report.done(this + " waits just so already, as " + run, all.toArray());
            case DROPPED -> report.done("dropped " + this + ", " + run, all.toArray());
            case ALREADY_ORDERED -> report.done("ordered before under that order key, as " + run, all.toArray());
            case ALREADY_WAITS ->
                report.notDone(
                        this + " waits already, as " + run + "; brume one-off move, or add --or-move, moves it",
                        all.toArray());
            case ALREADY_RAN ->
                report.notDone(
                        run + " of " + this + " has been made; see brume show " + run.substring(4), all.toArray());
            case NOT_THERE ->
                report.notDone("no one-off " + this + " waits; see brume one-off list " + job(), all.toArray());
        };
    }

    private static String due(Object[] members) {
        for (int i = 0; i + 1 < members.length; i += 2) {
            if (members[i].equals("dueAt")) {
                return ", due " + members[i + 1];
            }
        }
        return "";
    }

    @Override
    public String toString() {
        return key + " of " + job();
    }
}
