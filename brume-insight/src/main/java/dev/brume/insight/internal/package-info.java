/** The duties of several instances in virtual time. */
@NullMarked
package dev.brume.insight.internal;

import org.jspecify.annotations.NullMarked;
