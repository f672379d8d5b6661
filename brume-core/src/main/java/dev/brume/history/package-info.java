/** What one can look at: jobs, runs, one-offs, instances, changes, seals, as views, with filters and pages. */
@NullMarked
package dev.brume.history;

import org.jspecify.annotations.NullMarked;
