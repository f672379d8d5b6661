/** How it stands with deadlines, by what has ended and how long runs take. */
@NullMarked
package dev.brume.insight.deadline;

import org.jspecify.annotations.NullMarked;
