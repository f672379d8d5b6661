/** The duties in the order in which an instance does them. */
@NullMarked
package dev.brume.internal.round;

import org.jspecify.annotations.NullMarked;
