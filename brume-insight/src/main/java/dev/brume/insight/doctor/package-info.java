/** What is wrong or will go wrong, and what to do about each. */
@NullMarked
package dev.brume.insight.doctor;

import org.jspecify.annotations.NullMarked;
