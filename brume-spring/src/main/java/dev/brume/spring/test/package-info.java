/** Brume in the tests of a Spring application: virtual time, and runs that are collected or carried out at once. */
@NullMarked
package dev.brume.spring.test;

import org.jspecify.annotations.NullMarked;
