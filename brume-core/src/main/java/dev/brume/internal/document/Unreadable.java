package dev.brume.internal.document;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.internal.text.Texts;

/**
 * The stand-in for a job whose stored definition is damaged and cannot be read: it can be looked at, defined anew and dropped, and owes
 * nothing that anyone could compute. Its cursor does not move meanwhile.
 */
public final class Unreadable {
    private static final String HANDLER = "(its stored definition cannot be read)";
    private static final int LONGEST_REASON = 300;

    private Unreadable() {}

    /** {@return a job to stand for one of that name} */
    public static Job of(JobName key, Throwable why) {
        String reason = String.valueOf(why.getMessage());
        return Job.named(key.toString())
                .description("its stored definition cannot be read: "
                        + Texts.clean(reason.substring(0, Math.min(reason.length(), LONGEST_REASON))))
                .handler(HANDLER)
                .build();
    }

    /** {@return whether a job only stands for one} */
    public static boolean is(Job job) {
        return job.work().neededHandler().filter(HANDLER::equals).isPresent();
    }
}
