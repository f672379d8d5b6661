/** Metrics of an instance, by Micrometer. */
@NullMarked
package dev.brume.micrometer;

import org.jspecify.annotations.NullMarked;
