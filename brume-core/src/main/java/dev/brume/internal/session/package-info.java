/** Session leases: renewing, lapsing, taking over; and named leases. */
@NullMarked
package dev.brume.internal.session;

import org.jspecify.annotations.NullMarked;
