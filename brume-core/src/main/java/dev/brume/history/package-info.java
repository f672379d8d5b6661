/** Views of jobs, runs, one-offs, instances, changes, and seals, with filters and pages. */
@NullMarked
package dev.brume.history;

import org.jspecify.annotations.NullMarked;
