/** From due to planned: schedules and one-offs. */
@NullMarked
package dev.brume.internal.plan;

import org.jspecify.annotations.NullMarked;
