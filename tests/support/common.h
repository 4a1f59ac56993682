#pragma once

// What nearly every test reads, compiled once for all of them.

#include "job/derive.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QTest>

#include <opencv2/imgproc.hpp>

#include <atomic>
#include <filesystem>
#include <functional>
#include <numbers>
#include <random>
#include <set>
#include <thread>
