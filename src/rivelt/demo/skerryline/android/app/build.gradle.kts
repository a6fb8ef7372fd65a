plugins {
    alias(libs.plugins.android.application)
    alias(libs.plugins.kotlin.android)
}

android {
    namespace = "example.skerryline.app"
    compileSdk = 35

    defaultConfig {
        applicationId = "example.skerryline.app"
        minSdk = 23
        targetSdk = 35
        versionCode = 12
        versionName = "1.4"
    }

    flavorDimensions += "season"
    productFlavors {
        create("everyday") { dimension = "season" }
        create("festival") {
            dimension = "season"
            applicationIdSuffix = ".festival"
        }
    }
}

dependencies {
    implementation(libs.androidx.appcompat)
    implementation(libs.material)
}
