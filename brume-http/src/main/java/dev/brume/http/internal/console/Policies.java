package dev.brume.http.internal.console;

import dev.brume.FollowUp;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.IfMissed;
import dev.brume.Job;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.stream.Collectors;

/** Says in a sentence each what a job does when something is not as it should be. Stateless. */
final class Policies {
    private Policies() {}

    static Map<String, String> of(Job job) {
        Map<String, String> sentences = new LinkedHashMap<>();
        sentences.put("ifMissed", missed(job.ifMissed()));
        sentences.put("ifBusy", busy(job.ifBusy()));
        sentences.put("ifFailed", failed(job.ifFailed()));
        sentences.put(
                "ifLost",
                job.ifLost() == IfLost.GIVE_UP
                        ? "A run whose instance dies is not run again; it ends as LOST."
                        : "A run whose instance dies is run again by another one.");
        job.endBy()
                .ifPresent(deadline -> sentences.put(
                        "endBy", "It should have ended by " + deadline + "; it is told when it has not, or will not."));
        job.successWithin()
                .ifPresent(length -> sentences.put(
                        "successWithin", "It is told when it has not succeeded for " + Frame.size(length) + "."));
        job.timeLimit()
                .ifPresent(limit -> sentences.put(
                        "timeLimit", "An attempt that takes longer than " + Frame.size(limit) + " is stopped."));
        if (!job.followUps().isEmpty()) {
            sentences.put(
                    "then", job.followUps().stream().map(Policies::followUp).collect(Collectors.joining(" ")));
        }
        return sentences;
    }

    private static String missed(IfMissed policy) {
        String what = switch (policy.choice()) {
            case RUN_LATEST ->
                "Of occurrences that nobody could run in time the newest is run late; the others are on record as missed.";
            case RUN_EACH ->
                "Of occurrences that nobody could run in time the newest " + policy.atMost()
                        + " are run late; the others are on record as missed.";
            case SKIP -> "Occurrences that nobody could run in time are not run; they are on record as missed.";
        };
        return what + " A run that begins within " + Frame.size(policy.tolerance()) + " is on time."
                + policy.oldest()
                        .map(age -> " One older than " + Frame.size(age) + " is never run late.")
                        .orElse("");
    }

    private static String busy(IfBusy policy) {
        return switch (policy.choice()) {
            case SKIP -> "An occurrence that comes while a run is going on is skipped.";
            case WAIT ->
                "A run that comes while another is going on waits for its end; " + policy.bound()
                        + " wait at most, others are skipped.";
            case ALONGSIDE -> "Up to " + policy.bound() + " runs go on side by side; others are skipped.";
            case SUPERSEDE -> "A run that comes while another is going on ends it and takes its place.";
        };
    }

    private static String failed(IfFailed policy) {
        if (policy.attempts() <= 1) {
            return "A run that fails is not tried again.";
        }
        return "A run that fails is tried again, " + policy.attempts() + " times in all, first after "
                + Frame.size(policy.waitAfter(1)) + ".";
    }

    private static String followUp(FollowUp followUp) {
        return switch (followUp.on()) {
            case SUCCESS -> followUp.job() + " runs after it succeeded.";
            case FAILURE -> followUp.job() + " runs after it failed.";
            default -> followUp.job() + " runs after it ended.";
        };
    }
}
