package dev.brume.spi;

import dev.brume.JobName;
import dev.brume.history.OneOffView;

/**
 * A one-off as the store holds it.
 *
 * @param oneOff what was ordered
 * @param made whether its run has been made
 * @since 0.1.0
 */
public record OneOffRow(OneOffOrder oneOff, boolean made) {

    /** {@return it as it is looked at} */
    public OneOffView view(JobName job) {
        return new OneOffView(
                job,
                oneOff.key(),
                oneOff.dueAt(),
                oneOff.payload(),
                oneOff.orderedBy(),
                oneOff.run(),
                made,
                oneOff.exclusive());
    }
}
