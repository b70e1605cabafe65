using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class HowMachinesSpeak : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(
                name: "LiftMm",
                table: "SettingPasts",
                type: "double precision",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "LiftMm",
                table: "MaterialSettingRow",
                type: "double precision",
                nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "Language",
                table: "Machines",
                type: "integer",
                nullable: false,
                defaultValue: 0);

            migrationBuilder.AddColumn<double>(
                name: "MostForceGrams",
                table: "Machines",
                type: "double precision",
                nullable: false,
                defaultValue: 0.0);

            migrationBuilder.AddColumn<double>(
                name: "StepsPerMm",
                table: "Machines",
                type: "double precision",
                nullable: false,
                defaultValue: 40.0);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "LiftMm",
                table: "SettingPasts");

            migrationBuilder.DropColumn(
                name: "LiftMm",
                table: "MaterialSettingRow");

            migrationBuilder.DropColumn(
                name: "Language",
                table: "Machines");

            migrationBuilder.DropColumn(
                name: "MostForceGrams",
                table: "Machines");

            migrationBuilder.DropColumn(
                name: "StepsPerMm",
                table: "Machines");
        }
    }
}
