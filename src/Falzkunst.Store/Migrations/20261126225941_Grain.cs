using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Falzkunst.Store.Migrations
{
    /// <inheritdoc />
    public partial class Grain : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Grain",
                table: "SheetRow",
                type: "text",
                nullable: false,
                defaultValue: "");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Grain",
                table: "SheetRow");
        }
    }
}
