/** The checkup: problems that are there or will come, each with a way out. */
@NullMarked
package dev.brume.insight.doctor;

import org.jspecify.annotations.NullMarked;
