/** From claimed to ended: claiming, finishing, settling what an end leaves to be done, reconciling, stopping. */
@NullMarked
package dev.brume.internal.run;

import org.jspecify.annotations.NullMarked;
