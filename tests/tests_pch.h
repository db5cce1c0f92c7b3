// Precompiled: what nearly every test needs.
#pragma once
// The core's comes first: a library of its own has a function that bears the name of one of the test library's macros.
// clang-format off
#include "../core/kernel_pch.h"
#include <QtTest/QtTest>
