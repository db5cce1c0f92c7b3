#pragma once
#include <QtTest/QtTest>

#include "../core/kernel_pch.h"
