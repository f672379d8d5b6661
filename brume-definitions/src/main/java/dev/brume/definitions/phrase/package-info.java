/** Schedules in the parts of a sentence, for people who do not write expressions. */
@NullMarked
package dev.brume.definitions.phrase;

import org.jspecify.annotations.NullMarked;
