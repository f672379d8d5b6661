/** Says why a job runs or does not, from what is on record: pure computation on what a store has read. */
@NullMarked
package dev.brume.insight.why;

import org.jspecify.annotations.NullMarked;
